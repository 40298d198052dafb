import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { runs, samplesOf } from "../testing/runs.ts";
import { joinRoom, openRoom, startRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const NAMES = ["Ansel", "Brisa", "Corin", "Dovie", "Edda"] as const;
const BOARD_MS = 30_000;

/** What travellers do on their way, with how long after what was before. */
const applied = fc.record({
  who: fc.nat(NAMES.length - 1),
  what: fc.constantFrom(
    ...([
      "arrive",
      "arrive",
      "arrive",
      "progress",
      "leave",
      "lose",
      "resume",
      "background",
      "front",
      "silent",
    ] as const),
  ),
  afterMs: fc.nat(9_000),
});
const course = fc.record({
  stragglers: fc.constantFrom("wait", "go-without", "drop" as const),
  size: fc.integer({ min: 2, max: NAMES.length }),
  appliedEvents: fc.array(applied, { maxLength: 30 }),
});
type Course = typeof course extends fc.Arbitrary<infer C> ? C : never;

interface Observed {
  readonly opened: { readonly atMs: number; readonly missing: readonly string[]; readonly there: number }[];
  readonly failed: { readonly atMs: number }[];
  readonly boardingAtMs: number;
}

/** Plays a travel through relaying, and writes down what its barrier did and who had arrived by then. */
function travelled({ stragglers, size, appliedEvents }: Course): Observed {
  const rules = testRules();
  const relayed = rules.roomKinds.get("relayed");
  if (relayed === undefined) throw new Error("the rules have no relayed rooms");
  // A place is kept for longer than the travel takes, so that being away is one thing and being gone another.
  const roomKinds = new Map([...rules.roomKinds, ["relayed", { ...relayed, stragglers, graceMs: 60_000 }]] as const);
  const test = new TestHarbor({ ...rules, roomKinds });
  const players = NAMES.slice(0, size).map((name) => test.connect(name));
  const room = openRoom(test, players[0] ?? "", { kind: "relayed", capacity: size });
  joinRoom(test, room, ...players.slice(1));
  const observed: Observed = { opened: [], failed: [], boardingAtMs: test.now };
  test.onEvent = ({ event }) => {
    if (event.kind === "travel.failed") observed.failed.push({ atMs: test.now });
    if (event.kind !== "travel.completed") return;
    const { members } = test.room(room);
    const counted = [...members.values()].filter(
      ({ presence, attention }) => stragglers !== "go-without" || (presence === "here" && attention === null),
    );
    const missing = counted.filter(({ aboard }) => !aboard).map(({ name }) => name);
    const there = [...members.values()].filter(({ aboard }) => aboard).length;
    observed.opened.push({ atMs: test.now, missing, there });
  };
  startRoom(test, room);
  const run = test.room(room).run ?? "";
  for (const { who, what, afterMs } of appliedEvents) {
    test.pass(afterMs);
    const player = players[who % size] ?? "";
    const presence = test.harbor.state.players.byId.get(player)?.presence;
    if (presence === undefined) continue;
    if (what === "resume") {
      if (presence === "away") test.resume(player);
      continue;
    }
    if (presence === "away") continue;
    if (what === "arrive") test.run({ do: "travel.arrive", player, args: { run } });
    else if (what === "progress") test.run({ do: "travel.progress", player, args: { run, percent: 50 } });
    else if (what === "leave") test.run({ do: "room.leave", player, args: {} });
    else if (what === "lose") test.run({ do: "player.lose", player, connection: 1 });
    else if (what === "silent") test.run({ do: "room.mark-silent", player, silent: true });
    else test.run({ do: "room.set-background", player, args: { background: what === "background" } });
  }
  test.pass(BOARD_MS);
  return observed;
}

describe("the barrier of a travel", () => {
  it("opens exactly once or the travel is given up, at the deadline or before", () => {
    fc.assert(
      fc.property(course, (course) => {
        const { opened, failed, boardingAtMs } = travelled(course);
        expect(opened.length + failed.length).toBe(1);
        for (const { atMs } of [...opened, ...failed]) expect(atMs - boardingAtMs).toBeLessThanOrEqual(BOARD_MS);
      }),
      { numRuns: runs(400) },
    );
  });

  it("never opens before all whom the policy counts have arrived, but at the deadline", () => {
    fc.assert(
      fc.property(course, (course) => {
        const { opened, boardingAtMs } = travelled(course);
        for (const { atMs, missing } of opened) {
          if (missing.length === 0) continue;
          expect(course.stragglers).not.toBe("wait");
          expect(atMs - boardingAtMs).toBe(BOARD_MS);
        }
      }),
      { numRuns: runs(400) },
    );
  });

  it("never opens for nobody, and without some only for as many as the room needs", () => {
    fc.assert(
      fc.property(course, (course) => {
        const { opened, boardingAtMs } = travelled(course);
        for (const { there, missing, atMs } of opened) {
          expect(there).toBeGreaterThan(0);
          if (missing.length > 0 || atMs - boardingAtMs === BOARD_MS) expect(there).toBeGreaterThanOrEqual(2);
        }
      }),
      { numRuns: runs(400) },
    );
  });

  it("comes to each of its ends in such travels, so that the rules above were tried on them", () => {
    const unseen = new Set([
      "wait open early",
      "wait given up late",
      "go-without open early",
      "go-without open late without some",
      "go-without given up late",
      "drop open early",
      "drop open late without some",
      "drop given up late",
    ]);
    // As many as it takes.
    for (const sample of samplesOf(course, 600)) {
      if (unseen.size === 0) break;
      const { opened, failed, boardingAtMs } = travelled(sample);
      for (const { atMs } of failed)
        unseen.delete(`${sample.stragglers} given up ${atMs === boardingAtMs + BOARD_MS ? "late" : "early"}`);
      for (const { atMs, missing } of opened) {
        unseen.delete(
          `${sample.stragglers} open ${atMs === boardingAtMs + BOARD_MS ? "late" : "early"}${missing.length > 0 ? " without some" : ""}`,
        );
      }
    }
    expect([...unseen]).toEqual([]);
  });
});
