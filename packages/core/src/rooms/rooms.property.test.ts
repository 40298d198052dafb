import assert from "node:assert/strict";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import { checkStates, plain } from "../testing/checks.ts";
import { type Move, moves, play } from "../testing/random-play.ts";
import { testRules, testSpec } from "../testing/rules.ts";
import { runs, samplesOf } from "../testing/runs.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const partsOfTheVoyage = [
  ...["player.connected", "player.resumed", "player.lost", "player.left", "lobby.joined", "lobby.left"],
  ...[
    "room.opened",
    "room.joined",
    "room.departed",
    "room.settings-changed",
    "room.host-changed",
    "room.board-set",
    "room.board-removed",
    "room.level-picked",
    "room.ready-set",
    "room.counting",
    "room.count-stopped",
    "room.started",
  ],
  ...["room.set-up", "room.place-reserved", "room.reservation-ended"],
  ...["room.banned", "room.unbanned", "room.moved", "room.swap-offered", "room.swapped", "room.balanced"],
  ...["room.measured", "room.turn-passed", "room.turns-ended", "room.gathered", "lobby.tallied", "player.measured"],
  ...["travel.joined", "instance.berth-added", "instance.match-ended"],
  ...[
    "travel.called",
    "travel.retried",
    "travel.boarding",
    "travel.arrived",
    "travel.forgot",
    "travel.completed",
    "travel.failed",
  ],
  ...["travel.rerouted", "travel.host-requested", "travel.offered", "travel.progressed", "travel.troubled"],
  ...["travel.followed", "travel.ashore", "travel.berth-added", "travel.boarded", "travel.berth-freed"],
  ...["travel.world-closed", "room.background-set", "room.voted"],
  ...["room.playing", "room.result-set", "room.returned", "room.closed", "room.member-away", "room.member-back"],
  ...[
    "instance.launched",
    "instance.booting",
    "instance.opened",
    "instance.assigned",
    "instance.acknowledged",
    "instance.boarded",
  ],
  ...["instance.draining", "instance.differed"],
  ...["instance.reported", "instance.stop-requested", "instance.failed", "instance.exited", "instance.forgotten"],
];

describe("rooms, under random play", () => {
  it("keep every rule, and every client's view equals the state", () => {
    fc.assert(
      fc.property(moves(250), (moves) => {
        const test = new TestHarbor();
        const players = [test.connect("Ansel"), test.connect("Brisa")];
        for (const next of moves) {
          play(test, players, next);
          assert.deepEqual(invariantViolations(test.harbor.state), []);
          checkStates(test);
        }
      }),
      { numRuns: runs(100) },
    );
  });

  it.each([
    ["several at once", { rooms: 3, berths: 7 }],
    ["one match each", { matches: "one" as const, ports: ["query"] }],
  ])("keep every rule on instances that serve %s", (_, change) => {
    fc.assert(
      fc.property(moves(250), (moves) => {
        const test = new TestHarbor(testRules(), testSpec(change));
        const players = [test.connect("Ansel"), test.connect("Brisa")];
        for (const next of moves) {
          play(test, players, next);
          assert.deepEqual(invariantViolations(test.harbor.state), []);
          checkStates(test);
        }
        const restored = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
        expect(restored && plain(restored, test.now)).toEqual(plain(test.harbor, test.now));
        const replayed = new Harbor(testRules());
        for (const { event, at } of test.journal) replayed.replay(JSON.parse(JSON.stringify(event)), at);
        expect(plain(replayed, test.now)).toEqual(plain(test.harbor, test.now));
      }),
      { numRuns: runs(80) },
    );
  });

  it("reach every part of the voyage, so that the rules above were tried on it", () => {
    // Long ones come further than many short ones.
    const long = {
      everywhere: moves(1_000, undefined, false),
      elsewhere: moves(1_000, ["hosted", "anywhere", "relayed", "open-house"], false),
      searching: moves(1_000),
    };
    const unseen = new Set(partsOfTheVoyage);
    const unseenAfter = (sample: readonly Move[]) => {
      const test = new TestHarbor();
      const players: string[] = [];
      for (const next of sample) play(test, players, next);
      for (const kind of test.kinds()) unseen.delete(kind);
      return unseen.size;
    };
    // Seeds that come furthest together; where the game has changed since, as many more as it takes.
    for (const sample of samplesOf(long.searching, 0, [38, 140])) unseenAfter(sample);
    for (const sample of samplesOf(long.everywhere, 60, [67, 27, 75, 145])) if (unseenAfter(sample) === 0) break;
    for (const sample of samplesOf(long.elsewhere, 60, [129])) if (unseenAfter(sample) === 0) break;
    expect([...unseen]).toEqual([]);
  });

  it("come out the same when the journal is replayed, and when a snapshot is read back", () => {
    fc.assert(
      fc.property(moves(200), (moves) => {
        const test = new TestHarbor();
        const players: string[] = [];
        for (const next of moves) play(test, players, next);
        const replayed = new Harbor(testRules());
        for (const { event, at } of test.journal) replayed.replay(JSON.parse(JSON.stringify(event)), at);
        expect(plain(replayed, test.now)).toEqual(plain(test.harbor, test.now));
        const restored = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
        expect(restored && plain(restored, test.now)).toEqual(plain(test.harbor, test.now));
      }),
      { numRuns: runs(100) },
    );
  });

  it("are decided the same from the same commands and stamps", () => {
    fc.assert(
      fc.property(moves(150), (moves) => {
        const [first, second] = [0, 1].map(() => {
          const test = new TestHarbor();
          const players: string[] = [];
          for (const next of moves) play(test, players, next);
          return JSON.stringify(test.journal);
        });
        expect(first).toBe(second);
      }),
      { numRuns: runs(50) },
    );
  });
});
