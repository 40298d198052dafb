import { describe, expect, it } from "vitest";
import type { HarborRules } from "../model/rules.ts";
import { testRules } from "../testing/rules.ts";
import { joinRoom, openRoom, playRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { Harbor } from "./harbor.ts";
import { invariantViolations } from "./invariants.ts";

function change(test: TestHarbor, rules: Partial<HarborRules>, paths: readonly string[]) {
  const queues = test.harbor.changeRules({ ...test.harbor.rules, ...rules });
  test.ok({ do: "harbor.change-rules", paths, queues });
}

/** The lobby with another title, kinds that want more players, fewer levels, and a pool that is full. */
function others(): Partial<HarborRules> {
  const { lobbies, roomKinds, levels, pools } = testRules();
  return {
    lobbies: new Map([...lobbies].map(([id, lobby]) => [id, { ...lobby, title: "Long Quay" }])),
    roomKinds: new Map([...roomKinds].map(([id, kind]) => [id, { ...kind, minPlayers: 3 }])),
    levels: new Map([...levels].filter(([id]) => id !== "gull-flats")),
    pools: new Map([...pools].map(([id, pool]) => [id, { ...pool, max: 1 }])),
  };
}

describe("a harbor whose rules become others while it is in use", () => {
  it("keeps rooms by the rules they were opened with, and has new ones by the others", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin, dovie] = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name)) as [
      ...[string, string, string, string],
    ];
    const playing = openRoom(test, ansel);
    joinRoom(test, playing, brisa);
    playRoom(test, playing);
    const gathering = openRoom(test, corin);
    joinRoom(test, gathering, dovie);
    change(test, others(), ["lobbies.quayside.title", "roomKinds.crews.minPlayers"]);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
    expect(test.watched).toEqual(test.harbor.view());
    expect(test.harbor.view().lobbies["quayside"]?.title).toBe("Long Quay");
    expect(test.room(playing).phase).toBe("playing");
    // Two are enough for a room that was opened when two were.
    test.ok({ do: "room.pick-level", player: corin, args: { level: "brine-gate" } });
    for (const player of [corin, dovie]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.leave", player: dovie, args: {} });
    const another = openRoom(test, dovie);
    expect(test.room(another).policy.minPlayers).toBe(3);
    expect(test.room(gathering).policy.minPlayers).toBe(2);
    // A level that is gone cannot be picked any more.
    expect(test.refusal({ do: "room.pick-level", player: dovie, args: { level: "gull-flats" } }).code).toBe(
      "level-unknown",
    );
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is the same again from its journal, whose events need no rules", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    const room = openRoom(test, ansel);
    change(test, others(), ["levels.gull-flats"]);
    joinRoom(test, room, brisa);
    const again = new Harbor(testRules());
    for (const { event, at } of test.journal) again.replay(event, at);
    expect(again.snapshot()).toBe(test.harbor.snapshot());
  });

  it("names what is other, and counts what is too much to name; nothing is recorded when no rule is", () => {
    const test = new TestHarbor();
    const from = test.journal.length;
    change(test, {}, []);
    expect(test.kinds(from)).toEqual([]);
    change(
      test,
      {},
      Array.from({ length: 60 }, (_, n) => `levels.level-${n}`),
    );
    expect(test.journal.at(-1)?.event).toMatchObject({ kind: "harbor.rules-changed", more: 10 });
    const [applied] = test.appliedEvents.slice(-1);
    expect(applied && test.harbor.describe(applied, test.now)).toMatch(
      /^From here on other rules hold: levels\.level-0, .* and 10 more\.$/,
    );
  });
});
