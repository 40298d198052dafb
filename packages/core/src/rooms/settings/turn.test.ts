import { beforeEach, describe, expect, it } from "vitest";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let room: string;
let ansel: string;
let brisa: string;
let corin: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [string, string, string];
  room = openRoom(test, ansel);
  joinRoom(test, room, brisa, corin);
});

const give = (player: string, args: { to?: string; limitMs?: number } = {}) =>
  ({ do: "room.pass-turn", player, args }) as const;
const holder = () => test.room(room).turn?.holder;
const lose = (player: string) => test.run({ do: "player.lose", player, connection: 1 });

describe("the turn", () => {
  it("is brought in by the host and goes round by place", () => {
    expect(test.refusal(give(brisa)).code).toBe("not-host");
    const turns = [ansel, ansel, brisa, corin].map((player) => {
      test.ok(give(player));
      return holder();
    });
    expect(turns).toEqual([ansel, brisa, corin, ansel]);
    expect(test.views.get(corin)?.room?.turn).toEqual({ holder: ansel, number: 4 });
  });

  it("is passed by its holder and the host alone, also to one of one's choice", () => {
    test.ok(give(ansel, { to: corin }));
    expect(test.refusal(give(brisa))).toMatchObject({ code: "turn-not-yours" });
    test.ok(give(corin, { to: brisa }));
    expect(holder()).toBe(brisa);
    expect(test.refusal(give(brisa, { to: "p_000000000000" })).code).toBe("member-unknown");
    expect(test.refusal(give(brisa, { limitMs: 5_000 })).code).toBe("not-host");
  });

  it("skips who is away, and passes on when its holder goes away or leaves", () => {
    test.ok(give(ansel));
    lose(brisa);
    test.ok(give(ansel));
    expect(holder()).toBe(corin);
    lose(corin);
    expect(holder()).toBe(ansel);
    test.resume(corin);
    test.ok(give(ansel));
    const { appliedEvents } = test.run({ do: "room.leave", player: corin, args: {} });
    expect(holder()).toBe(ansel);
    const told = appliedEvents.flatMap(({ pushes }) => pushes).find((push) => push.scope === "room");
    // Part of the same update as the departure.
    expect(told).toMatchObject({ update: { kind: "member-left" }, patch: { turn: { holder: ansel } } });
  });

  it("stays with its holder while nobody is here, and goes to the first who is back", () => {
    test.ok(give(ansel));
    for (const player of [brisa, corin, ansel]) lose(player);
    expect(holder()).toBe(ansel);
    test.resume(corin);
    expect(holder()).toBe(corin);
  });

  it("passes on by itself when a turn takes too long", () => {
    test.ok(give(ansel, { limitMs: 2_000 }));
    test.pass(1_999);
    expect(holder()).toBe(ansel);
    test.pass(1);
    expect(holder()).toBe(brisa);
    test.pass(4_000);
    expect(test.room(room).turn).toMatchObject({ holder: ansel, number: 4 });
    test.ok({ do: "room.end-turns", player: ansel, args: {} });
    test.pass(60_000);
    expect(test.views.get(brisa)?.room).not.toHaveProperty("turn");
  });
});
