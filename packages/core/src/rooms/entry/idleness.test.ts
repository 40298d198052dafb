import { describe, expect, it } from "vitest";
import { invariantViolations } from "../../harbor/invariants.ts";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { told } from "../../testing/searching.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

/** A room whose kind asks after six seconds, and waits two for an answer. */
function gathered() {
  const test = new TestHarbor();
  const [ansel = "", brisa = ""] = ["Ansel", "Brisa"].map((name) => test.connect(name));
  const room = openRoom(test, ansel, { kind: "eager", capacity: 3 });
  joinRoom(test, room, brisa);
  const asked = () => test.journal.flatMap(({ event }) => (event.kind === "room.idle-asked" ? [event.player] : []));
  return { test, room, ansel, brisa, asked };
}

describe("a member who does nothing", () => {
  it("is asked after a while, and is in the lobby again when it does not answer", () => {
    const { test, room, ansel, brisa, asked } = gathered();
    test.pass(3_000);
    test.ok({ do: "room.ready", player: ansel, args: { ready: true } });
    test.pass(3_001);
    expect(asked()).toEqual([brisa]);
    test.pass(2_000);
    expect(test.room(room).members.has(brisa)).toBe(false);
    expect(told(test, brisa).at(-1)).toMatchObject({ kind: "out-of-room", cause: "idle" });
    expect(test.harbor.state.players.byId.get(brisa)?.room).toBeNull();
    // Who is ready waits for others, for as long as it takes.
    test.pass(60_000);
    expect(test.room(room).members.has(ansel)).toBe(true);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is left alone once it answers, or does anything else", () => {
    const { test, room, ansel, brisa, asked } = gathered();
    test.pass(6_001);
    expect(asked()).toEqual([ansel, brisa]);
    test.ok({ do: "room.here", player: ansel, args: {} });
    test.ok({ do: "board.set", player: brisa, args: { key: "tide", value: 1 } });
    test.pass(3_000);
    expect(test.room(room).members.size).toBe(2);
    test.pass(3_001);
    expect(asked()).toHaveLength(4);
  });

  it("is not asked while it is away, while the room plays, or where the room kind does not ask", () => {
    const { test, room, ansel, brisa, asked } = gathered();
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    const other = openRoom(test, test.connect("Corin"), { kind: "crews" });
    test.pass(5_000);
    test.ok({ do: "room.here", player: ansel, args: {} });
    test.resume(brisa);
    test.pass(5_000);
    expect(asked()).toEqual([]);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    for (const player of [ansel, brisa]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.pass(20_000);
    expect(test.room(room).phase).not.toBe("gathering");
    expect(asked()).toEqual([]);
    expect(test.room(other).members.size).toBe(1);
    expect(test.ok({ do: "room.here", player: test.room(other).host ?? "", args: {} }).revision).toBe(
      test.room(other).revision,
    );
  });
});
