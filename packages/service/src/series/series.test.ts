import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { Harbor } from "@yellow-harbor/core";
import type { SeriesFigures } from "@yellow-harbor/protocol";
import pino from "pino";
import { afterEach, describe, expect, it } from "vitest";
import { rulesOf } from "../config/rules.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";
import { SeriesKeeper } from "./series-keeper.ts";
import { together } from "./spans.ts";

afterEach(endAll);

const log = pino({ level: "silent" });

/** A keeper whose clock and counters are ours. */
function keeperIn(dataFolder: string, startMs: number) {
  const harbor = new Harbor(rulesOf(testConfig(), [1, 2, 3, 4]));
  const at = { nowMs: startMs, arrived: 0, failed: 0 };
  const keeper = new SeriesKeeper({
    runtime: { query: async (read: (harbor: Harbor, atMs: number) => unknown) => read(harbor, at.nowMs) } as never,
    metrics: {
      total: async (name: string) => (name === "yh_players_connected_total" ? at.arrived : 0),
      totals: async () => ({ completed: 0, failed: at.failed }),
    } as never,
    dataFolder,
    now: () => at.nowMs,
    log,
  });
  return { keeper, at };
}

const START_MS = Date.UTC(2026, 10, 30, 8);

describe("figures over time", () => {
  it("are averages of what is so and sums of what happens", () => {
    const point = (players: number, arrived: number): SeriesFigures => ({
      ...{ players, inLobbies: 0, searching: 0, inRooms: 1, playing: 0, rooms: 0, instances: 2 },
      ...{ arrived, matched: 0, started: 0, failed: 1, played: 0 },
    });
    expect(together([point(10, 3), point(11, 4), point(11, 0)])).toEqual({ ...point(10.7, 7), failed: 3 });
  });

  it("are kept closely for an hour, and coarser the longer ago they are; nothing is counted twice or lost", async () => {
    const { keeper, at } = keeperIn(temporaryFolder(), START_MS);
    keeper.begin();
    try {
      for (let n = 0; n < 6 * 60 * 5; n++) {
        at.arrived += 2;
        await keeper.look();
        at.nowMs += 10_000;
      }
      const hour = keeper.read("hour");
      expect([hour.everyMs, hour.points.length]).toEqual([10_000, 359]);
      const day = keeper.read("day").points;
      // The first look ends a span in which there was no other.
      expect([day.length, day.at(-1)?.arrived, day[0]?.arrived]).toEqual([60, 60, 2]);
      expect(day.slice(1, -1).every(({ arrived }) => arrived === 60)).toBe(true);
      expect(keeper.read("month").points.map(({ arrived }) => arrived)).toEqual([2, 1_440, 1_440]);
    } finally {
      keeper.end();
    }
  });

  it("are there after a restart, with a gap where nobody looked; a file that is none is begun anew", async () => {
    const folder = temporaryFolder();
    const first = keeperIn(folder, START_MS);
    first.keeper.begin();
    await first.keeper.look();
    first.keeper.end();
    const second = keeperIn(folder, START_MS + 600_000);
    second.keeper.begin();
    second.at.arrived = 5;
    await second.keeper.look();
    expect(second.keeper.read("hour").points.map(({ atMs }) => atMs - START_MS)).toEqual([0, 600_000]);
    second.keeper.end();
    writeFileSync(
      join(folder, "series.sqlite"),
      "this is no database, whoever wrote it, and never was one".repeat(100),
    );
    const third = keeperIn(folder, START_MS + 700_000);
    third.keeper.begin();
    expect(third.keeper.read("hour").points).toEqual([]);
    await third.keeper.look();
    expect(third.keeper.read("hour").points).toHaveLength(1);
    third.keeper.end();
  });

  it("are told over HTTP, and refused for a span that is none", async () => {
    const service = await startTestService();
    expect(await service.operator.series("day")).toEqual({ everyMs: 300_000, points: [] });
    const wrong = await fetch(`${service.url}/v1/series?span=year`);
    expect([wrong.status, ((await wrong.json()) as { code: string }).code]).toEqual([422, "request-invalid"]);
  });
});
