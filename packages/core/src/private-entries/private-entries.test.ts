import type { PlayerArgs } from "@yellow-harbor/protocol";
import { beforeEach, describe, expect, it } from "vitest";
import { readSnapshot, writeSnapshot } from "../harbor/snapshot.ts";
import { checkStates } from "../testing/checks.ts";
import { testRules } from "../testing/rules.ts";
import { joinRoom, openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { allIn } from "./view.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let corin: string;
let dovie: string;
let room: string;

/** Ansel and Corin on north, Brisa and Dovie on south. */
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin, dovie] = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name)) as [
    string,
    string,
    string,
    string,
  ];
  room = openRoom(test, ansel, { kind: "sided", capacity: 4 });
  joinRoom(test, room, brisa, corin, dovie);
});

type Value = PlayerArgs<"private.set">["value"];
const write = (player: string, key: string, value: Value, to: { player: string } | { side: string }) =>
  ({ do: "private.set", player, args: { key, value, to } }) as const;
const read = (player: string) => (test.privateEntries.get(player)?.entries ?? []).map(({ key, value }) => [key, value]);
const all = () => allIn(test.harbor.state, room);

describe("a private entry", () => {
  it("is seen by its owner and by whom it is for, and by nobody else", () => {
    const { revision } = test.room(room);
    test.ok(write(ansel, "hand", ["gate", null], { player: brisa }));
    test.ok(write(brisa, "hand", { plan: "south" }, { side: "south" }));
    expect(read(ansel)).toEqual([["hand", ["gate", null]]]);
    expect(read(brisa)).toEqual([
      ["hand", ["gate", null]],
      ["hand", { plan: "south" }],
    ]);
    expect([read(corin), read(dovie)]).toEqual([[], [["hand", { plan: "south" }]]]);
    // Not even that there is something: the room is as it was.
    expect(test.room(room).revision).toBe(revision);
    checkStates(test);
  });

  it("is for others once it is set for others, and for nobody once it is removed", () => {
    test.ok(write(ansel, "hand", 1, { player: brisa }));
    test.ok(write(ansel, "hand", 2, { side: "north" }));
    expect([read(brisa), read(corin)]).toEqual([[], [["hand", 2]]]);
    expect(all()).toMatchObject([{ revision: 2, to: { side: "north" } }]);
    expect(test.ok({ do: "private.remove", player: brisa, args: { key: "hand" } })).toEqual({ removed: false });
    expect(test.ok({ do: "private.remove", player: ansel, args: { key: "hand" } })).toEqual({ removed: true });
    expect([read(ansel), read(corin), all()]).toEqual([[], [], []]);
    checkStates(test);
  });

  it("follows the side: who comes to it reads it, and who leaves it does not", () => {
    test.ok({ do: "room.leave", player: dovie, args: {} });
    test.ok(write(ansel, "plan", "hold the gate", { side: "north" }));
    test.ok({ do: "room.move-to", player: corin, args: { side: "south" } });
    expect(read(corin)).toEqual([]);
    test.ask(dovie, { do: "room.join", player: dovie, args: { room, side: "north" } });
    expect(read(dovie)).toEqual([["plan", "hold the gate"]]);
    for (const [player, other] of [
      [ansel, brisa],
      [brisa, ansel],
    ] as const)
      test.ok({ do: "room.swap", player, args: { with: other } });
    // Its owner reads it wherever it stands.
    expect([read(ansel), read(brisa)]).toEqual([[["plan", "hold the gate"]], [["plan", "hold the gate"]]]);
    checkStates(test);
  });

  it("goes with its owner, and with the one it is for", () => {
    test.ok(write(ansel, "hand", 1, { player: brisa }));
    test.ok(write(brisa, "hand", 2, { side: "north" }));
    test.ok(write(corin, "hand", 3, { side: "north" }));
    test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    expect([read(ansel), read(brisa), read(corin)]).toEqual([[["hand", 3]], [], [["hand", 3]]]);
    checkStates(test);
    for (const player of [ansel, corin, dovie]) test.ok({ do: "room.leave", player, args: {} });
    expect(test.harbor.state.privateEntries.byRoom.size).toBe(0);
  });

  it("is read by nobody who only looks on, also when that was a member before", () => {
    test.ok(write(ansel, "plan", 1, { side: "south" }));
    expect(read(dovie)).toHaveLength(1);
    test.ask(dovie, { do: "room.watch", player: dovie, args: { room } });
    expect(test.room(room).spectators.has(dovie)).toBe(true);
    expect(read(dovie)).toEqual([]);
    expect(test.refusal(write(dovie, "plan", 1, { side: "south" })).code).toBe("only-watching");
    checkStates(test);
  });

  it("is in the welcome of who comes back, and in a snapshot", () => {
    test.ok(write(ansel, "plan", 1, { side: "south" }));
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    test.ok(write(ansel, "plan", 2, { side: "south" }));
    test.resume(brisa);
    expect(read(brisa)).toEqual([["plan", 2]]);
    const again = readSnapshot(writeSnapshot(test.harbor.state));
    expect(again?.privateEntries).toEqual(test.harbor.state.privateEntries);
  });

  it("is refused for nobody, for strangers, and beyond the limits of the room kind", () => {
    expect(test.refusal(write(ansel, "k", 1, { side: "west" })).detail).toContain("its sides are north, south");
    expect(test.refusal(write(ansel, "k", 1, { player: "p_none" })).code).toBe("member-unknown");
    expect(test.refusal(write(ansel, "k", "x".repeat(3_000), { side: "north" }))).toMatchObject({
      code: "board-full",
      detail: expect.stringContaining("at most 2048"),
    });
    for (let n = 0; n < 16; n++) test.ok(write(ansel, `k${n}`, n, { side: "north" }));
    expect(test.refusal(write(ansel, "more", 1, { side: "north" })).detail).toContain("You have 16 private entries");
    test.ok(write(ansel, "k3", "again", { side: "north" }));
    test.ok(write(brisa, "k0", 1, { side: "north" }));
  });

  it("is none where the room kind has none, and no more in a room than its kind lets", () => {
    const kinds = (limits: { perMember: number; bytes: number; totalBytes: number }) =>
      testRules({
        roomKinds: new Map([...testRules().roomKinds].map(([id, kind]) => [id, { ...kind, privateEntries: limits }])),
      });
    test = new TestHarbor(kinds({ perMember: 0, bytes: 16, totalBytes: 16 }));
    const none = test.connect("Ansel");
    openRoom(test, none);
    expect(test.refusal(write(none, "k", 1, { player: none })).detail).toContain("take no private entries");
    test = new TestHarbor(kinds({ perMember: 4, bytes: 16, totalBytes: 20 }));
    const one = test.connect("Ansel");
    openRoom(test, one);
    test.ok(write(one, "k", "0123456789", { player: one }));
    expect(test.refusal(write(one, "l", "0123456789", { player: one })).detail).toContain("more than 20 bytes");
  });
});
