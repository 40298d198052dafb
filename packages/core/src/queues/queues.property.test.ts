import assert from "node:assert/strict";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import { checkStates, plain } from "../testing/checks.ts";
import { type Move, play, searchMove } from "../testing/random-play.ts";
import { testRules } from "../testing/rules.ts";
import { runs } from "../testing/runs.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const who = fc.nat(9);
const presence = fc.constantFrom("lose", "resume", "resume", "leave", "leave", "leave", "goodbye" as const);

/** Players who do little but search, answer, play and leave. */
const searching = (max: number) =>
  fc.array(
    fc.oneof(
      { weight: 2, arbitrary: fc.constant({ do: "connect" as const }) },
      { ...searchMove, weight: 20 },
      { weight: 4, arbitrary: fc.record({ do: presence, who }) as fc.Arbitrary<Move> },
      { weight: 6, arbitrary: fc.record({ do: fc.constant("onward" as const), which: fc.nat(2) }) },
      { weight: 4, arbitrary: fc.record({ do: fc.constant("wait" as const), ms: fc.nat(4_000) }) },
    ) as fc.Arbitrary<Move>,
    { minLength: 40, maxLength: max, size: "max" },
  );

function played(moves: readonly Move[], each: (test: TestHarbor) => void = () => undefined): TestHarbor {
  const test = new TestHarbor();
  const players = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name));
  for (const next of moves) {
    play(test, players, next);
    each(test);
  }
  return test;
}

const parts = [
  ...["queue.ticket-opened", "queue.ticket-ended", "queue.held-changed", "queue.mode-set", "queue.matched"],
  ...[
    "queue.accepted",
    "queue.confirmed",
    "queue.undone",
    "queue.search-paused",
    "queue.match-started",
    "queue.forfeited",
  ],
  ...["queue.backfill-started", "queue.backfill-ended", "queue.backfilled", "queue.room-ended"],
];

describe("queues, under random play", () => {
  it("keep every rule, and every client's view equals the state", () => {
    fc.assert(
      fc.property(searching(200), (moves) => {
        played(moves, (test) => {
          assert.deepEqual(invariantViolations(test.harbor.state), []);
          checkStates(test);
        });
      }),
      { numRuns: runs(120) },
    );
  });

  it("reach every part of the way, so that the rules above were tried on it", () => {
    const unseen = new Set(parts);
    const samples = fc.sample(searching(400), { numRuns: 100, seed: 4 });
    // Two that come furthest together; where the game has changed since, as many more as it takes.
    for (const moves of [samples[8], samples[3], ...samples]) {
      if (unseen.size === 0 || moves === undefined) break;
      for (const kind of played(moves).kinds()) unseen.delete(kind);
    }
    expect([...unseen]).toEqual([]);
  });

  it("never have a player in two matches, nor forget or shorten a wait when a match comes to nothing", () => {
    fc.assert(
      fc.property(searching(200), (moves) => {
        const { journal } = played(moves);
        const waits = new Map<string, number | null>();
        for (const { event } of journal) {
          if (event.kind !== "queue.ticket-opened") continue;
          const { id, sinceMs } = event.ticket;
          if (waits.has(id)) expect(sinceMs).toBe(waits.get(id));
          waits.set(id, sinceMs);
        }
        // From being matched until the match is over or undone nobody may be matched again.
        const taken = new Map<string, string>();
        for (const { event } of journal) {
          if (event.kind === "queue.matched") {
            for (const player of event.sides.flat()) {
              expect(taken.get(player), `${player} is in ${taken.get(player)} and ${event.match}`).toBeUndefined();
              taken.set(player, event.match);
            }
          }
          if (event.kind === "queue.undone") {
            for (const [player, match] of taken) if (match === event.match) taken.delete(player);
          }
          if (event.kind === "room.departed") taken.delete(event.player);
        }
      }),
      { numRuns: runs(60) },
    );
  });

  it("come out the same when the journal is replayed, and when a snapshot is read back", () => {
    fc.assert(
      fc.property(searching(150), (moves) => {
        const test = played(moves);
        const replayed = new Harbor(testRules());
        for (const { event, at } of test.journal) replayed.replay(JSON.parse(JSON.stringify(event)), at);
        expect(plain(replayed, test.now)).toEqual(plain(test.harbor, test.now));
        const restored = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
        expect(restored && plain(restored, test.now)).toEqual(plain(test.harbor, test.now));
      }),
      { numRuns: runs(60) },
    );
  });
});
