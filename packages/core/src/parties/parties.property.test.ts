import assert from "node:assert/strict";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import type { HarborRules } from "../model/rules.ts";
import { checkStates, plain } from "../testing/checks.ts";
import { PARTYING } from "../testing/random-party.ts";
import { type Move, play, searchMove } from "../testing/random-play.ts";
import { runs, samplesOf } from "../testing/runs.ts";
import { pairOfRules } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const who = fc.nat(5);
const partyMove = fc.record({
  do: fc.constant("party" as const),
  how: fc.constantFrom(...PARTYING),
  who,
  whom: who,
  size: fc.nat(6),
});
const presence = fc.constantFrom("lose", "lose", "resume", "resume", "resume", "leave", "goodbye" as const);

/** Players who do little but come together, go places and leave. */
const gathering: fc.Arbitrary<Move[]> = fc.array(
  fc.oneof(
    { weight: 2, arbitrary: fc.constant({ do: "connect" as const }) },
    { weight: 20, arbitrary: partyMove },
    { ...searchMove, weight: 3 },
    { weight: 5, arbitrary: fc.record({ do: presence, who }) as fc.Arbitrary<Move> },
    {
      weight: 2,
      arbitrary: fc.record({ do: fc.constant("open" as const), who, kind: fc.constantFrom("open-house", "sided") }),
    },
    { weight: 2, arbitrary: fc.record({ do: fc.constant("account" as const), which: fc.nat(1) }) },
    { weight: 2, arbitrary: fc.record({ do: fc.constant("onward" as const), which: fc.nat(2) }) },
    { weight: 3, arbitrary: fc.record({ do: fc.constant("wait" as const), ms: fc.nat(4_000) }) },
  ) as fc.Arbitrary<Move>,
  { minLength: 40, maxLength: 200, size: "max" },
);

/** Who is in which party by what was said to have happened, and nothing else: lists of members, the leader first known. */
class Model {
  readonly members = new Map<string, string[]>();

  hear(event: TestHarbor["journal"][number]["event"]): void {
    if (event.kind === "party.opened") this.members.set(event.party, [event.leader.id]);
    if (event.kind === "party.joined") this.members.get(event.party)?.push(event.member.id);
    if (event.kind !== "party.left") return;
    const rest = (this.members.get(event.party) ?? []).filter((one) => one !== event.player);
    if (rest.length > 0) this.members.set(event.party, rest);
    else this.members.delete(event.party);
  }
}

function played(moves: readonly Move[], each: (test: TestHarbor, model: Model) => void): TestHarbor {
  const test = new TestHarbor(pairOfRules() as HarborRules);
  const model = new Model();
  test.onEvent = ({ event }) => model.hear(event);
  const players = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name));
  for (const next of moves) {
    play(test, players, next);
    each(test, model);
  }
  return test;
}

/** What holds between commands, whatever was done. */
function checkParties({ harbor: { state }, now }: TestHarbor, model: Model): void {
  const held = [...state.parties.byId].map(([id, { members }]) => [id, [...members.keys()]]);
  assert.deepEqual(new Map(held as [string, string[]][]), model.members);
  for (const { leader, members, leaderAwaySinceMs, policy } of state.parties.byId.values()) {
    const here = [...members.values()].some(({ presence }) => presence === "here");
    const isLate = leaderAwaySinceMs !== null && now - leaderAwaySinceMs > policy.leaderGraceMs;
    assert.ok(!(isLate && here), `${leader} leads, was away for long, and others are here`);
  }
  // A search of a party is one of members that it has still.
  for (const { party, players, asked } of state.queues.tickets.values()) {
    if (party === undefined || asked !== undefined) continue;
    const members = state.parties.byId.get(party)?.members;
    assert.ok(
      players.every(({ id }) => members?.has(id)),
      `a search of party ${party} has players who left it`,
    );
  }
}

describe("parties, under random play", () => {
  it("are who came and has not left, keep every rule, and every member knows it as it is", () => {
    fc.assert(
      fc.property(gathering, (moves) => {
        played(moves, (test, model) => {
          assert.deepEqual(invariantViolations(test.harbor.state), []);
          checkParties(test, model);
          checkStates(test);
        });
      }),
      { numRuns: runs(60) },
    );
  });

  it("are the same after replaying the journal, and from a snapshot", () => {
    fc.assert(
      fc.property(gathering, (moves) => {
        const test = played(moves, () => undefined);
        const replayed = new Harbor(test.harbor.rules);
        for (const { event, at } of test.journal) replayed.replay(event, at);
        assert.deepEqual(plain(replayed, test.now), plain(test.harbor, test.now));
        const restored = Harbor.fromSnapshot(test.harbor.rules, test.harbor.snapshot());
        assert.deepEqual(restored && plain(restored, test.now), plain(test.harbor, test.now));
      }),
      { numRuns: runs(20) },
    );
  });

  it("come by everything there is about them", () => {
    const parts = ["opened", "joined", "left", "led", "invited", "invitation-ended", "called", "member-changed"];
    const watching = ["room.watched", "room.unwatched", "room.spectator-changed", "room.member-described"];
    const unseen = new Set([...parts.map((one) => `party.${one}`), ...watching]);
    // As many as it takes.
    for (const moves of samplesOf(gathering, 60)) {
      if (unseen.size === 0) break;
      for (const { event } of played(moves, () => undefined).journal) unseen.delete(event.kind);
    }
    expect([...unseen]).toEqual([]);
  });
});
