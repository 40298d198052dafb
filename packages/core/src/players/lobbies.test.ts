import { describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import { testRules } from "../testing/rules.ts";
import { openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

/** Two lobbies, of which the second has unique names and lets no guests in, where that is said. */
function twoLobbies(more: object = {}) {
  const rules = testRules();
  const [[, quayside] = []] = rules.lobbies;
  if (!quayside) throw new Error("no lobby");
  return {
    ...rules,
    lobbies: new Map([...rules.lobbies, ["far-light", { ...quayside, title: "Far Light", ...more }]]),
  };
}

const go = (test: TestHarbor, player: string, lobby = "far-light") =>
  test.ask(player, { do: "player.switch-lobby", player, args: { lobby } });

describe("a player who goes to another lobby", () => {
  it("is the same player there, and everybody in either lobby hears of it", () => {
    const test = new TestHarbor(twoLobbies());
    const [ansel = "", brisa = "", corin = ""] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    go(test, corin);
    expect(go(test, ansel).reply).toMatchObject({ lobby: { id: "far-light" } });
    expect(test.views.get(corin)?.lobby?.players?.[ansel]).toMatchObject({ name: "Ansel" });
    expect(Object.keys(test.views.get(brisa)?.lobby?.players ?? {})).toEqual([brisa]);
    const room = openRoom(test, ansel);
    expect(test.room(room).lobby).toBe("far-light");
    expect(go(test, corin).refused).toBeUndefined();
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is refused from a room, a search, a party, and to a lobby that there is not", () => {
    const test = new TestHarbor(twoLobbies());
    const ansel = test.connect("Ansel");
    const code = (lobby?: string) => go(test, ansel, lobby).refused?.code;
    expect(code("nowhere")).toBe("lobby-unknown");
    openRoom(test, ansel);
    expect(code()).toBe("already-in-room");
    test.ok({ do: "room.leave", player: ansel, args: {} });
    test.ok({ do: "queue.join", player: ansel, args: { queue: "pairs", attributes: { skill: 1 } } });
    expect(code()).toBe("already-searching");
    test.ok({ do: "queue.cancel", player: ansel, args: {} });
    test.ok({ do: "party.open", player: ansel, args: {} });
    expect(code()).toBe("already-in-party");
    test.ok({ do: "party.leave", player: ansel, args: {} });
    expect(code()).toBeUndefined();
  });

  it("is held to the rules of that lobby: its guests, and its names", () => {
    const closed = new TestHarbor(twoLobbies({ guests: false }));
    expect(go(closed, closed.connect("Ansel")).refused?.code).toBe("account-needed");
    const test = new TestHarbor(twoLobbies({ uniqueNames: true }));
    const [one, other] = [test.connect("Ansel"), test.connect("ansel")] as [string, string];
    expect(go(test, one).refused).toBeUndefined();
    expect(go(test, other).refused?.code).toBe("name-taken");
    go(test, one, "quayside");
    expect(go(test, other).refused).toBeUndefined();
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });
});
