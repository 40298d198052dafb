import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { parseConfig } from "../packages/service/src/config/load.ts";
import {
  endAll,
  startTestService,
  TEST_CONFIG,
  temporaryFolder,
} from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

const CONFIG = `${TEST_CONFIG()
  .replace("roomKinds: [crews]", "roomKinds: [crews, duels]")
  .replace(
    "  crews: { capacity",
    "  duels: { capacity: { min: 2, max: 2 }, levels: [brine-gate], destinations: [relayed], resultBy: host }\n  crews: { capacity",
  )}
queues:
  duels:
    title: Duels
    lobby: quayside
    roomKind: duels
    sides: { count: 2, max: 1 }
    closeness: [{ attribute: skill, gap: [[0, 1000]] }]
    rating: { attribute: skill }
    passEveryMs: 50
`;

async function scene() {
  const folder = temporaryFolder();
  const file = join(folder, "harbor.yaml");
  writeFileSync(file, CONFIG);
  const parsed = parseConfig(CONFIG);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.faults));
  const service = await startTestService(parsed.config);
  const device = (name: string) => `device-key-of-${name}-`.padEnd(40, "x");
  const players = await Promise.all(["Ansel", "Brisa"].map((name) => service.player(name, { device: device(name) })));
  return { service, file, players, url: ["--url", service.url] };
}

type Player = Awaited<ReturnType<typeof scene>>["players"][number];

/** Both search, are matched and play; the first wins. */
async function playOnce(players: readonly Player[]): Promise<void> {
  const [first] = players;
  await Promise.all(players.map((player) => player.search({ queue: "duels", attributes: { skill: 1 } })));
  await Promise.all(players.map((player) => player.until(({ room }) => room?.travel?.step === "boarding")));
  await Promise.all(players.map((player) => player.travel.arrive()));
  await Promise.all(players.map((player) => player.until(({ room }) => room?.phase === "playing")));
  const host = players.find((player) => player.state.room?.host === player.id) as Player;
  await host.ask("room.set-result", {
    standings: players.map(({ id }) => ({ player: id, score: id === first?.id ? 10 : 4 })),
  });
  await Promise.all(players.map((player) => player.ask("room.leave", {})));
}

interface Listed {
  readonly ratings: readonly { readonly account: string; readonly rating: number; readonly matches: number }[];
}

const listOf = async (url: readonly string[]) =>
  (JSON.parse((await runYh(["rating", "list", "duels", "--json", ...url])).out) as Listed).ratings;

describe("yh rating", () => {
  it("lists what results have made of accounts, which search with it, and works it out anew from the journal", async () => {
    const { players, url, file } = await scene();
    expect((await runYh(["rating", "list", "duels", ...url])).out).toContain("Nobody is rated so");
    expect(await runYh(["rating", "replay", "duels", "--config", file, ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("no result that counts in duels"),
    });
    await playOnce(players);
    const [won, lost] = await listOf(url);
    expect([won?.account, lost?.account]).toEqual(players.map(({ account }) => account));
    expect(won?.rating).toBeGreaterThan(1_600);
    await playOnce(players);
    const twice = await listOf(url);
    expect(twice[0]).toMatchObject({ matches: 2 });
    expect((await runYh(["rating", "list", "duels", "--account", lost?.account ?? "", ...url])).out).toMatch(
      /RANK +ACCOUNT +SKILL +DEVIATION +MATCHES +LAST\n +2 +device:/,
    );
    // By the same rules the same comes out; by others something else, which can be taken over.
    const same = await runYh(["rating", "replay", "duels", "--config", file, "--json", ...url]);
    const anew = JSON.parse(same.out) as Listed & { matches: number; loss: number; recordedLoss: number };
    expect(anew).toMatchObject({ matches: 2, loss: anew.recordedLoss });
    expect(anew.ratings.map(({ rating }) => rating)).toEqual(twice.map(({ rating }) => rating));
    writeFileSync(file, CONFIG.replace("rating: { attribute: skill }", "rating: { attribute: skill, deviation: 100 }"));
    const applied = await runYh(["rating", "replay", "duels", "--config", file, "--apply", ...url]);
    expect(applied.out).toContain("The service has these ratings now.");
    expect((await listOf(url))[0]?.rating).toBeLessThan(twice[0]?.rating ?? 0);
  });

  it("sets ratings and begins seasons, and refuses queues that rate nobody", async () => {
    const { url } = await scene();
    expect((await runYh(["rating", "set", "duels", "game:1", "1900", "--deviation", "60", ...url])).out).toMatch(
      /1 +game:1 +1900 +60 +0 +-/,
    );
    expect((await runYh(["rating", "season", "duels", "--keep", "0.25", ...url])).out).toMatch(/1 +game:1 +1600 +350/);
    expect(await runYh(["rating", "list", "none", ...url])).toMatchObject({
      code: 3,
      err: expect.stringContaining("Queue none rates nobody, or is not there"),
    });
    expect(await runYh(["rating", "set", "duels", "game:1", "much", ...url])).toMatchObject({ code: 2 });
  });
});
