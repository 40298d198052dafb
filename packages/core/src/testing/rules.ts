import type { HarborRules } from "../harbor/rules.ts";

/** Rules for tests: one lobby, three room kinds, three levels, one pool of three ports. */
export function testRules(change: Partial<HarborRules> = {}): HarborRules {
  const level = (title: string, least: number, most: number) => ({ title, least, most, pool: "sluice" });
  const crews = {
    capacity: { least: 1, most: 6, preset: 4 },
    leastPlayers: 2,
    levels: ["brine-gate", "gull-flats"],
    graceMs: 10_000,
    countdownMs: 0,
    autoStart: false,
    relay: { perSecond: 30, bytes: 1_024 },
    board: { entries: 4, bytes: 64, totalBytes: 160 },
  };
  return {
    harbor: "test-harbor",
    players: { limit: 100, builds: ["game-1"], graceMs: 5_000 },
    lobbies: new Map([["quayside", { title: "Quayside", roomKinds: ["crews", "counted", "eager"] }]]),
    roomKinds: new Map([
      ["crews", crews],
      ["counted", { ...crews, countdownMs: 3_000 }],
      ["eager", { ...crews, countdownMs: 3_000, autoStart: true }],
    ]),
    levels: new Map([
      ["brine-gate", level("Brine Gate", 2, 6)],
      ["gull-flats", level("Gull Flats", 2, 3)],
      ["old-slip", level("Old Slip", 1, 1)],
    ]),
    pools: new Map([
      [
        "sluice",
        {
          ...{ build: "breakwater", host: "127.0.0.1", ports: { from: 7500, to: 7502 }, most: 3 },
          ...{ bootMs: 20_000, stopMs: 3_000, silenceMs: 15_000, portRestMs: 5_000, forgetMs: 10_000 },
        },
      ],
    ]),
    travel: { prepareMs: 40_000, boardMs: 30_000, attempts: 2 },
    ...change,
  };
}
