import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { medianLatency } from "../../model/rooms/median-latency.ts";
import { moves, play } from "../../testing/random-play.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";
import { obstacles } from "../start/obstacles.ts";
import { bestOf } from "./preference.ts";

/** The best room by looking at every one of them: what the index has to find without doing so. */
function bestByComparison(test: TestHarbor, player: string): string | undefined {
  const { rooms, players } = test.harbor.state;
  const joining = players.byId.get(player);
  if (joining === undefined) return undefined;
  const fits = [...rooms.byId.values()].filter(
    (room) => room.visibility === "listed" && obstacles(room, joining, { byCode: false }).length === 0,
  );
  return bestOf(fits, ["places", "latency", "age"])?.id;
}

describe("quickJoin", () => {
  it("finds in its index what looking at every room would find", () => {
    let joined = 0;
    fc.assert(
      fc.property(moves(120), (all) => {
        const test = new TestHarbor();
        const players: string[] = [];
        for (const next of all) play(test, players, next);
        const player = test.connect("QuickJoiner");
        const expected = bestByComparison(test, player);
        const { reply } = test.ask(player, { do: "room.quick-join", player: player, args: {} });
        const found = reply as { room: { id: string }; opened: boolean };
        expect(found.opened).toBe(expected === undefined);
        if (expected === undefined) return;
        expect(found.room.id).toBe(expected);
        joined += 1;
      }),
      { numRuns: 60 },
    );
    expect(joined).toBeGreaterThan(8);
  });
});

describe("the median of the latencies", () => {
  const roomWith = (latencies: readonly (number | null)[]) => {
    const members = latencies.map((latencyMs, n) => {
      return [String(n), { latency: latencyMs === null ? null : { latencyMs, jitterMs: 0 } }] as const;
    });
    return { members: new Map(members) } as unknown as Parameters<typeof medianLatency>[0];
  };

  it.each([
    [[], undefined],
    [[null, null], undefined],
    [[30], 30],
    [[90, null, 10, 20], 20],
    [[40, 10, 20, 30], 25],
  ])("of %j is %s", (latencies, median) => expect(medianLatency(roomWith(latencies))).toBe(median));
});
