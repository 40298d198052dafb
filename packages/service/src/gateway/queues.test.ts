import type { OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it, vi } from "vitest";
import { parseConfig } from "../config/load.ts";
import type { Config } from "../config/schema.ts";
import { endAll, startTestService, TEST_CONFIG, type TestService } from "../testing/test-service.ts";

afterEach(endAll);

const QUEUES = (gap = 50, name = "pairs") => `
queues:
  ${name}:
    title: Pairs
    lobby: quayside
    roomKind: crews
    sides: { count: 2, max: 1 }
    needs: [{ attribute: build, must: equal }]
    closeness: [{ attribute: skill, gap: [[0, ${gap}]] }]
    confirm: { withinMs: 20000, pausesMs: [60000] }
    whenLeft: backfill
    passEveryMs: 50
`;

/** The rooms of the queue play without an instance: the service relays. */
function configWith(queues: string): Config {
  const text = TEST_CONFIG().replace(
    "levels: [brine-gate], graceMs: 5000",
    "levels: [brine-gate], graceMs: 5000, lateJoining: backfill, destinations: [relayed]",
  );
  const parsed = parseConfig(text + queues);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.faults));
  return parsed.config;
}

const search = (player: PlayerClient, skill: number) => player.search({ queue: "pairs", attributes: { skill } });
const asked = (player: PlayerClient) =>
  vi.waitUntil(() => player.ticket?.confirm, { timeout: 30_000, interval: 5 }) as Promise<{ match: string }>;
const answer = async (player: PlayerClient, accept: boolean) =>
  player.confirmMatch({ match: (await asked(player)).match, accept });
const refused = (asking: Promise<unknown>) =>
  asking.then(
    () => "not refused",
    (error: { code: string }) => error.code,
  );

/** Two players whom the queue has brought together, in a room that plays. */
async function playing(service: TestService): Promise<[PlayerClient, PlayerClient]> {
  const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
  await Promise.all([search(ansel, 1_000), search(brisa, 1_010)]);
  await Promise.all([answer(ansel, true), answer(brisa, true)]);
  for (const player of [ansel, brisa]) {
    await player.until(({ room }) => room?.travel?.step === "boarding");
    await player.travel.arrive();
  }
  await Promise.all([ansel, brisa].map((player) => player.until(({ room }) => room?.phase === "playing")));
  return [ansel, brisa];
}

const queueOf = async (operator: OperatorClient) => (await operator.queues()).queues[0];

describe("a queue over the wire", () => {
  it("asks the players it has found, and brings those who accept into one room", async () => {
    const service = await startTestService(configWith(QUEUES()));
    const [ansel, brisa] = await playing(service);
    expect(ansel.state.room?.id).toBe(brisa.state.room?.id);
    expect(ansel.ticket).toBeUndefined();
    expect(await queueOf(service.operator)).toMatchObject({
      matches: 1,
      confirming: 0,
      requires: { numbers: ["skill"] },
    });
  });

  it("lets nobody search for a while who has declined, and keeps the other's wait over a lost connection", async () => {
    const service = await startTestService(configWith(QUEUES()));
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    await Promise.all([search(ansel, 1_000), search(brisa, 1_010)]);
    const { match } = await asked(brisa);
    expect(await refused(ansel.confirmMatch({ match: "m_000000000000", accept: true }))).toBe("match-gone");
    const sinceMs = ansel.ticket?.sinceMs;
    const again = await service.restart();
    // Both come back by themselves, and are still asked.
    await vi.waitUntil(async () => (await again.operator.status()).players.here === 2, { timeout: 30_000 });
    await vi.waitUntil(() => ansel.ticket?.state === "confirming", { timeout: 30_000 });
    await brisa.confirmMatch({ match, accept: false });
    await vi.waitUntil(() => ansel.ticket?.state === "searching", { timeout: 30_000 });
    expect(ansel.ticket?.sinceMs).toBe(sinceMs);
    expect(await refused(search(brisa, 1_000))).toBe("search-too-soon");
  });

  it("fills a playing room up when somebody leaves it, unless its host or an operator says not to", async () => {
    const service = await startTestService(configWith(QUEUES()));
    const [ansel, brisa] = await playing(service);
    await brisa.leaveRoom();
    await ansel.until(({ room }) => room?.backfill !== undefined);
    expect(await queueOf(service.operator)).toMatchObject({ backfill: 1 });
    const room = ansel.state.room?.id ?? "";
    await service.operator.backfillRoom(room, false);
    await ansel.until(({ room }) => room?.backfill === undefined);
    const corin = await service.player("Corin");
    await search(corin, 1_020);
    await ansel.ask("queue.backfill", { wanted: true });
    const { match } = await asked(corin);
    const why = await service.operator.explainMatch(match);
    expect(why.match).toMatchObject({ into: room, confirming: true });
    await answer(corin, true);
    await corin.until(({ room: into }) => into?.id === room);
    await ansel.until(({ room }) => room?.backfill === undefined && room?.members[corin.id] !== undefined);
    expect(corin.state.room).toMatchObject({ phase: "playing", destination: { by: "relayed" } });
  });
});

describe("reading the configuration again", () => {
  it("takes other rules without losing anybody, and tells who has no place any more", async () => {
    const texts = [
      QUEUES(50),
      QUEUES(500),
      QUEUES(500).replace("gap: [[0, 500]]", "gap: [[3, 500]]"),
      QUEUES(50, "others"),
    ];
    let file = 1;
    const started = configWith(QUEUES(50));
    const service = await startTestService(started, {
      reload: () => {
        const parsed = parseConfig(
          TEST_CONFIG().replace("levels: [brine-gate], graceMs: 5000", "levels: [brine-gate], lateJoining: backfill") +
            texts[file],
        );
        return parsed.ok
          ? // Each text has ports of its own.
            { ok: true, config: { ...parsed.config, pools: started.pools }, file: "harbor.yaml" }
          : { ok: false, file: "harbor.yaml", faults: parsed.faults };
      },
    });
    const { operator } = service;
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    await Promise.all([search(ansel, 1_000), search(brisa, 1_300)]);
    await vi.waitUntil(async () => (await queueOf(operator))?.tickets === 2, { timeout: 30_000 });
    expect(ansel.ticket?.state).toBe("searching");

    const { queues, changes } = await operator.applyConfig();
    expect(queues).toEqual({ changed: ["pairs"], gone: [] });
    expect(changes).toContainEqual(expect.objectContaining({ path: "queues.pairs.closeness", takes: "at-once" }));
    await asked(ansel);
    await answer(ansel, false);
    // The same once more is no change.
    expect((await operator.applyConfig()).queues).toEqual({ changed: [], gone: [] });

    file = 2;
    const fault = await operator.applyConfig().catch((error: { code: string; message: string }) => error);
    expect(fault).toMatchObject({ code: "config-invalid", message: expect.stringContaining("Nothing was changed") });
    expect((await operator.queues()).queues.map(({ id }) => id)).toEqual(["pairs"]);

    file = 3;
    const ended = new Promise((resolve) => brisa.on("ticketEnded", resolve));
    expect((await operator.applyConfig()).queues).toEqual({ changed: ["others"], gone: ["pairs"] });
    expect(await ended).toMatchObject({ cause: "refused" });
    expect((await operator.queues()).queues.map(({ id }) => id)).toEqual(["others"]);
  });

  it("is refused when the service was not started from a file", async () => {
    const service = await startTestService(configWith(QUEUES()));
    expect(await refused(service.operator.applyConfig())).toBe("config-unreadable");
  });
});
