import { beforeEach, describe, expect, it } from "vitest";
import type { Command } from "../../model/command.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let corin: string;
let room: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [string, string, string];
  room = (test.ask(ansel, { do: "room.open", player: ansel, args: { capacity: 4 } }).reply as { room: { id: string } })
    .room.id;
  for (const player of [brisa, corin]) test.ask(player, { do: "room.join", player, args: { room } });
});

type WriteArgs = Extract<Command, { do: "board.set" }>["args"];
const write = (player: string, key: string, value: WriteArgs["value"], more: Partial<WriteArgs> = {}) =>
  ({ do: "board.set", player, args: { key, value, ...more } }) as const;
const board = (player: string) => test.views.get(player)?.room?.board ?? {};

describe("the board", () => {
  it("is seen by all, by newcomers whole, null and nested values included", () => {
    test.ok(write(brisa, "flag", null));
    test.ok(write(brisa, "tide", { high: null, marks: [1, null] }));
    expect(board(corin)).toEqual({
      flag: { box: [null], owner: brisa, revision: 1, onLeave: "remove" },
      tide: { box: [{ high: null, marks: [1, null] }], owner: brisa, revision: 1, onLeave: "remove" },
    });
    const dovie = test.connect("Dovie");
    test.ask(dovie, { do: "room.join", player: dovie, args: { room } });
    expect(board(dovie)).toEqual(board(corin));
  });

  it("lets the owner and the host change an entry, and nobody else; the owner stays the owner", () => {
    test.ok(write(brisa, "flag", 1));
    expect(test.refusal(write(corin, "flag", 2))).toMatchObject({
      code: "board-not-owner",
      detail: expect.stringContaining("belongs to Brisa"),
    });
    test.ok(write(ansel, "flag", 3));
    expect(board(corin).flag).toMatchObject({ box: [3], owner: brisa, revision: 2 });
    expect(test.refusal({ do: "board.remove", player: corin, args: { key: "flag" } }).code).toBe("board-not-owner");
    expect(test.refusal({ do: "board.remove", player: corin, args: { key: "none" } }).code).toBe("board-key-unknown");
    test.ok({ do: "board.remove", player: brisa, args: { key: "flag" } });
    expect(board(corin)).toEqual({});
  });

  it("compares before it sets", () => {
    test.ok(write(brisa, "flag", 1, { ifRevision: 0 }));
    expect(test.refusal(write(brisa, "flag", 2, { ifRevision: 0 }))).toMatchObject({
      code: "board-stale",
      detail: expect.stringContaining("is at revision 1"),
    });
    test.ok(write(brisa, "flag", 2, { ifRevision: 1 }));
    expect(test.refusal(write(brisa, "other", 2, { ifRevision: 4 })).detail).toContain("is not there");
  });

  it("is bounded in entries, in bytes of each, and in bytes of all", () => {
    expect(test.refusal(write(brisa, "big", "x".repeat(63))).detail).toBe(
      "The value has 65 bytes of JSON; an entry takes at most 64.",
    );
    // Three bytes a character: bytes count, not characters.
    expect(test.refusal(write(brisa, "kana", "ナ".repeat(21))).detail).toContain("has 65 bytes");
    for (const key of ["a", "b"]) test.ok(write(brisa, key, "x".repeat(60)));
    expect(test.refusal(write(brisa, "c", "x".repeat(60))).detail).toContain("would hold 186 bytes");
    for (const key of ["c", "d"]) test.ok(write(brisa, key, 1));
    expect(test.refusal(write(brisa, "e", 1)).detail).toContain("has 4 entries");
    test.ok(write(brisa, "d", 2));
  });

  it("does with a leaver's entries what each says, in the same update", () => {
    for (const onLeave of ["remove", "keep", "host"] as const) test.ok(write(brisa, onLeave, onLeave, { onLeave }));
    const { appliedEvents } = test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    expect(appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "room")).toHaveLength(1);
    expect(board(corin)).toMatchObject({ keep: { owner: brisa }, host: { owner: ansel, revision: 2 } });
    expect(Object.keys(board(corin)).sort()).toEqual(["host", "keep"]);
  });

  it("passes the host's own entries to the new host", () => {
    test.ok(write(ansel, "wall", 1, { onLeave: "host" }));
    test.ask(ansel, { do: "room.leave", player: ansel, args: {} });
    expect(board(corin).wall?.owner).toBe(brisa);
    expect(test.room(room).host).toBe(brisa);
  });
});
