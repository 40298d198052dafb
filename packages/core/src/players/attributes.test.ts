import { describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import type { HarborRules } from "../model/rules.ts";
import { testRules } from "../testing/rules.ts";
import { instanceOf, joinRoom, openRoom, playedRoom } from "../testing/scenes.ts";
import { ticketOf } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const set = (test: TestHarbor, player: string, attributes: Record<string, string | number | null>) =>
  test.run({ do: "player.set-attributes", player, args: { attributes } });

/** The rules of the tests with a default for the lantern. */
function withDefault(): HarborRules {
  const rules = testRules();
  const lantern = { type: "string" as const, enum: ["amber", "green"], default: "green" };
  return { ...rules, players: { ...rules.players, attributes: { ...rules.players.attributes, lantern } } };
}

describe("attributes of players", () => {
  it("are shown to the room, from its opening on and with each change", () => {
    const test = new TestHarbor();
    const [ansel = "", brisa = ""] = ["Ansel", "Brisa"].map((name) => test.connect(name));
    expect(set(test, ansel, { lantern: "amber" }).reply).toEqual({ attributes: { lantern: "amber" } });
    const room = openRoom(test, ansel);
    joinRoom(test, room, brisa);
    const seen = () => test.views.get(brisa)?.room?.members[ansel]?.attributes;
    expect(seen()).toEqual({ lantern: "amber" });
    set(test, ansel, { stones: 4 });
    expect(seen()).toEqual({ lantern: "amber", stones: 4 });
    set(test, ansel, { lantern: null });
    expect(seen()).toEqual({ stones: 4 });
    set(test, ansel, { stones: null });
    expect(seen()).toBeUndefined();
    expect(test.views.get(brisa)?.room?.members[brisa]).not.toHaveProperty("attributes");
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("begin with their defaults, and go back to them", () => {
    const test = new TestHarbor(withDefault());
    const ansel = test.connect("Ansel");
    const room = openRoom(test, ansel);
    expect(test.room(room).members.get(ansel)?.attributes).toEqual({ lantern: "green" });
    set(test, ansel, { lantern: "amber" });
    expect(set(test, ansel, { lantern: null }).reply).toEqual({ attributes: { lantern: "green" } });
  });

  it("are taken from the token where it vouches for them, and told when that changes", () => {
    const test = new TestHarbor();
    const come = (vouched: Record<string, number | string>) =>
      test.ok({
        do: "player.connect",
        name: "Ansel",
        build: "game-1",
        lobby: undefined,
        connection: 1,
        identity: { account: "game:1", roles: [], vouched },
      }).player.id;
    const ansel = come({ rank: 7, lantern: "pink", other: "x" });
    const room = openRoom(test, ansel);
    // What does not fit what is declared, and what is not declared, is nobody's business.
    expect(test.room(room).members.get(ansel)?.attributes).toEqual({ rank: 7 });
    expect(come({ rank: 8 })).toBe(ansel);
    expect(test.room(room).members.get(ansel)?.attributes).toEqual({ rank: 8 });
    expect(set(test, ansel, { rank: 9 }).refused?.code).toBe("attribute-not-yours");
  });

  it("are refused when they are not declared, or cannot be so", () => {
    const test = new TestHarbor();
    const ansel = test.connect("Ansel");
    expect(set(test, ansel, { lanten: "amber" }).refused).toMatchObject({
      code: "attribute-unknown",
      detail: "Players have no attribute lanten; there are lantern, stones, rank.",
    });
    expect(set(test, ansel, { lantern: "pink" }).refused).toMatchObject({
      code: "attribute-invalid",
      accepted: ["amber", "green"],
    });
    expect(set(test, ansel, { stones: 10, lantern: "amber" }).refused?.detail).toBe(
      "Attribute stones cannot be 10: expected 0 to 9.",
    );
    expect(set(test, ansel, { constructor: "x" }).refused?.code).toBe("attribute-unknown");
    const rules = testRules();
    const none = new TestHarbor({ ...rules, players: { ...rules.players, attributes: null } });
    expect(set(none, none.connect("Ansel"), { lantern: "amber" }).refused?.detail).toBe(
      "Players have no attribute lantern; the game declares none.",
    );
  });

  it("are told to the instance, as they are and as they become", () => {
    const test = new TestHarbor();
    const players = ["Ansel", "Brisa"].map((name) => test.connect(name)) as [string, string];
    set(test, players[0], { lantern: "amber" });
    const room = playedRoom(test, "crews", players);
    const { instructions } = test.instance(instanceOf(test, room));
    const assigned = test.journal.find(({ event }) => event.kind === "instance.assigned")?.event;
    expect(assigned).toMatchObject({ match: { players: [{ attributes: { lantern: "amber" } }, {}] } });
    set(test, players[1], { lantern: "green" });
    expect(test.instance(instanceOf(test, room)).instructions.length).toBe(instructions.length + 1);
    expect(test.instance(instanceOf(test, room)).instructions.at(-1)).toMatchObject({
      instruction: "match-changed",
      players: [{ id: players[1], attributes: { lantern: "green" } }],
    });
  });

  it("count in searches, unless the search says otherwise", () => {
    const rules = testRules();
    const skill = { type: "integer" as const, minimum: 0 };
    const test = new TestHarbor({ ...rules, players: { ...rules.players, attributes: { skill } } });
    const [ansel = "", brisa = ""] = ["Ansel", "Brisa"].map((name) => test.connect(name));
    for (const player of [ansel, brisa]) set(test, player, { skill: 1_200 });
    test.ok({ do: "queue.join", player: ansel, args: { queue: "pairs" } });
    expect(ticketOf(test, ansel)?.players[0]?.attributes).toMatchObject({ skill: 1_200 });
    test.ok({ do: "queue.join", player: brisa, args: { queue: "pairs", attributes: { skill: 2_000 } } });
    expect(ticketOf(test, brisa)?.players[0]?.attributes).toMatchObject({ skill: 2_000 });
  });
});
