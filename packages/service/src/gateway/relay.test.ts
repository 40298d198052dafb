import type { PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

/** Three in one room, one in another, and what each hears. */
async function gather(service: TestService) {
  const players = await Promise.all(["Ansel", "Brisa", "Corin", "Dovie"].map((name) => service.player(name)));
  const [ansel, brisa, corin, dovie] = players as [PlayerClient, PlayerClient, PlayerClient, PlayerClient];
  const heard = new Map<PlayerClient, unknown[]>(players.map((player) => [player, []]));
  for (const player of players) player.on("relayed", ({ from, body }) => heard.get(player)?.push([from, body]));
  const { room } = await ansel.openRoom({ capacity: 3 });
  await brisa.joinRoom({ room: room.id });
  await corin.joinRoom({ room: room.id });
  await dovie.openRoom();
  return { ansel, brisa, corin, dovie, heard: (player: PlayerClient) => heard.get(player) };
}

/** What the first so many of a kind were. */
const many = <K extends "relayedBytes" | "refused">(player: PlayerClient, kind: K, count: number) =>
  new Promise<unknown[]>((resolve) => {
    const all: unknown[] = [];
    player.on(kind, (one) => {
      if (all.push(one) === count) resolve(all);
    });
  });

describe.each([1, 2])("relayed bytes, in %i processes", (workers) => {
  it("go as they are to whom they are for, in order, and what cannot be passed on is refused by its code", async () => {
    const service = await startTestService(testConfig(), { workers });
    const { ansel, brisa, corin, dovie } = await gather(service);
    const body = Uint8Array.from({ length: 256 }, (_, n) => n);
    const heard = many(brisa, "relayedBytes", 2);
    const corinHeard = many(corin, "relayedBytes", 2);
    const strange: unknown[] = [];
    for (const one of [ansel, dovie]) one.on("relayedBytes", (message) => strange.push(message));
    ansel.relayBytes(body);
    ansel.relayBytes(new Uint8Array(), corin.id);
    ansel.relayBytes(new Uint8Array([9]), brisa.id);
    expect(await heard).toEqual([body, new Uint8Array([9])].map((one) => ({ from: ansel.id, body: one })));
    expect(await corinHeard).toEqual([body, new Uint8Array()].map((one) => ({ from: ansel.id, body: one })));
    const refused = many(ansel, "refused", 4);
    ansel.relayBytes(body, dovie.id);
    ansel.relayBytes(body, { side: "north" });
    ansel.relayBytes(new Uint8Array(1_025));
    ansel.relayBytes(body, "nobody");
    // What is no frame at all a process of its own refuses at once, before the harbor hears of the others.
    expect((await refused).map((one) => (one as { code: string }).code).sort()).toEqual([
      ...["frame-unknown", "member-unknown", "relay-too-large", "side-unknown"],
    ]);
    await Promise.all([ansel, dovie].map((player) => player.listLevels()));
    expect(strange).toEqual([]);
    expect(ansel.isConnected).toBe(true);
  });
});

describe("a relayed message", () => {
  it("goes to the others, to all, or to one; in order; and never to anybody outside the room", async () => {
    const { ansel, brisa, corin, dovie, heard } = await gather(await startTestService());
    const sent = [ansel.relay(1), ansel.relay({ n: 2 }, "all"), ansel.relay("three", corin.id), ansel.relay(null)];
    expect(await Promise.all(sent)).toEqual([{ delivered: 2 }, { delivered: 3 }, { delivered: 1 }, { delivered: 2 }]);
    // Answers follow what was relayed before them on each connection; a round trip of each shows that all has come.
    await Promise.all([brisa, corin, dovie].map((player) => player.listLevels()));
    expect(heard(ansel)).toEqual([[ansel.id, { n: 2 }]]);
    expect(heard(brisa)).toEqual([1, { n: 2 }, null].map((body) => [ansel.id, body]));
    expect(heard(corin)).toEqual([1, { n: 2 }, "three", null].map((body) => [ansel.id, body]));
    expect(heard(dovie)).toEqual([]);
  });

  it("is refused outside a room, to strangers, too large, too deep or too often, each by its code", async () => {
    const service = await startTestService(
      testConfig("good", (config) => {
        const crews = config.roomKinds.crews;
        return crews ? { ...config, roomKinds: { crews: { ...crews, relay: { perSecond: 5, bytes: 100 } } } } : config;
      }),
    );
    const { ansel, dovie } = await gather(service);
    await expect((await service.player("Edda")).relay(1)).rejects.toMatchObject({ code: "not-in-room" });
    await expect(ansel.relay(1, dovie.id)).rejects.toMatchObject({ code: "member-unknown" });
    await expect(ansel.relay("x".repeat(99))).rejects.toMatchObject({ code: "relay-too-large" });
    const deep = JSON.parse(`${"[".repeat(1_000)}1${"]".repeat(1_000)}`);
    await expect(ansel.relay(deep)).rejects.toMatchObject({ code: "request-invalid" });
    const outcomes = await Promise.allSettled(Array.from({ length: 20 }, (_, n) => ansel.relay(n)));
    const refused = outcomes.filter((outcome) => outcome.status === "rejected");
    expect(refused.length).toBeGreaterThan(5);
    for (const { reason } of refused as PromiseRejectedResult[]) expect(reason.code).toBe("relay-too-fast");
  });

  it("does not wait for the journal, nor stand in it", async () => {
    const service = await startTestService();
    const { ansel } = await gather(service);
    const before = (await service.operator.status()).journal;
    await Promise.all(Array.from({ length: 20 }, (_, n) => ansel.relay(n)));
    expect((await service.operator.status()).journal).toEqual(before);
  });
});
