import { describe, expect, it } from "vitest";
import type { HarborRules } from "../../model/rules.ts";
import { testRules } from "../../testing/rules.ts";
import { joinRoom, openRoom, playRoom } from "../../testing/scenes.ts";
import { told } from "../../testing/searching.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

const withInvites = (invites: "members" | "host" | "nobody"): HarborRules => {
  const rules = testRules();
  const roomKinds = new Map([...rules.roomKinds].map(([id, kind]) => [id, { ...kind, invites }] as const));
  return { ...rules, roomKinds };
};

/** A room of three with two in it, and somebody in the lobby. */
function gathered(rules?: HarborRules) {
  const test = new TestHarbor(rules);
  const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [
    string,
    string,
    string,
  ];
  const room = openRoom(test, ansel, { capacity: 3 });
  joinRoom(test, room, brisa);
  return { test, room, ansel, brisa, corin };
}

const invite = (test: TestHarbor, by: string, player: string) =>
  test.run({ do: "room.invite", player: by, args: { player } });

describe("an invitation", () => {
  it("keeps a place, is told to the one alone, and is used up by coming", () => {
    const { test, room, ansel, brisa, corin } = gathered();
    test.ok({ do: "room.change", player: ansel, args: { visibility: "locked" } });
    const { untilMs } = test.ok({ do: "room.invite", player: brisa, args: { player: corin } });
    expect(told(test, corin).at(-1)).toMatchObject({
      kind: "invited",
      invitation: { room, by: { id: brisa, name: "Brisa" }, untilMs },
    });
    expect(test.views.get(ansel)?.room?.reserved).toMatchObject([{ name: "Corin" }]);
    const dovie = test.connect("Dovie");
    test.ok({ do: "room.change", player: ansel, args: { visibility: "listed" } });
    expect(test.ask(dovie, { do: "room.join", player: dovie, args: { room } }).refused?.code).toBe("room-full");
    joinRoom(test, room, corin);
    expect(told(test, corin).at(-1)).toMatchObject({ kind: "invitation-ended", room, cause: "joined" });
    expect(test.room(room).members.size).toBe(3);
  });

  it("waits for who is away, and is in its welcome; an account need not be here at all", () => {
    const { test, room, ansel, corin } = gathered();
    test.run({ do: "player.lose", player: corin, connection: 1 });
    invite(test, ansel, corin);
    expect(test.resume(corin).reply).toMatchObject({ invitations: [{ room }] });
    test.ok({ do: "room.uninvite", player: ansel, args: { player: corin } });
    test.ok({ do: "room.invite", player: ansel, args: { account: "game:1" } });
    const dovie = test.connectAs("game:1") ?? "";
    expect(test.ask(dovie, { do: "room.join", player: dovie, args: { room } }).refused).toBeUndefined();
  });

  it("can be declined, taken back, and ends by itself or with the room; each time it is told why", () => {
    const { test, room, ansel, brisa, corin } = gathered();
    const ends = () =>
      told(test, corin).flatMap((update) => (update.kind === "invitation-ended" ? [update.cause] : []));
    invite(test, ansel, corin);
    test.ok({ do: "room.decline", player: corin, args: { room } });
    expect(test.run({ do: "room.decline", player: corin, args: { room } }).refused?.code).toBe("reservation-unknown");
    invite(test, ansel, corin);
    expect(test.run({ do: "room.uninvite", player: brisa, args: { player: corin } }).refused?.code).toBe("not-host");
    test.ok({ do: "room.uninvite", player: ansel, args: { player: corin } });
    invite(test, brisa, corin);
    test.pass(10_001);
    invite(test, brisa, corin);
    test.ok({ do: "room.dissolve", room, reason: undefined, by: "operator" });
    expect(ends()).toEqual(["declined", "cancelled", "expired", "closed"]);
    expect(test.harbor.state.rooms.keptFor.size).toBe(0);
  });

  it("of an account does not tell which of the members it is, nor whether it is here", () => {
    const { test, room, ansel } = gathered();
    const dovie = test.connectAs("game:1") ?? "";
    const invited = (account: string) => test.run({ do: "room.invite", player: ansel, args: { account } });
    expect(invited("game:1").refused).toBeUndefined();
    test.ok({ do: "room.uninvite", player: ansel, args: { account: "game:1" } });
    expect(invited("game:2").refused).toBeUndefined();
    test.ok({ do: "room.uninvite", player: ansel, args: { account: "game:2" } });
    joinRoom(test, room, dovie);
    expect(invited("game:1").refused?.detail).toMatch(/^Whoever that is is in room/);
  });

  it("lets its owner into a run that is under way", () => {
    const { test, room, ansel, corin } = gathered();
    playRoom(test, room);
    expect(test.ask(corin, { do: "room.join", player: corin, args: { room } }).refused?.code).toBe("room-started");
    invite(test, ansel, corin);
    expect(test.ask(corin, { do: "room.join", player: corin, args: { room } }).refused).toBeUndefined();
  });

  it("is not heard by who has muted them, and is there when it listens again", () => {
    const { test, room, ansel, corin } = gathered();
    test.ok({ do: "room.mute-invites", player: corin, args: { muted: true } });
    invite(test, ansel, corin);
    expect(told(test, corin)).toEqual([]);
    expect(test.room(room).reservations.size).toBe(1);
    expect(test.ok({ do: "room.mute-invites", player: corin, args: { muted: false } }).invitations).toMatchObject([
      { room },
    ]);
  });

  it.each([
    ["nobody", "nobody invites others"],
    ["host", "the host, Ansel, invites others"],
  ] as const)("is refused a member where %s may invite", (invites, text) => {
    const { test, brisa, corin } = gathered(withInvites(invites));
    expect(invite(test, brisa, corin).refused).toMatchObject({
      code: "invites-not-yours",
      detail: expect.stringContaining(text),
    });
  });

  it("is refused for who is in, who is banned, who is gone, where no place is free, and beyond so many", () => {
    const { test, room, ansel, brisa, corin } = gathered();
    expect(invite(test, ansel, brisa).refused?.code).toBe("already-in-room");
    expect(invite(test, ansel, "p_none").refused?.code).toBe("player-unknown");
    expect(invite(test, corin, ansel).refused?.code).toBe("not-in-room");
    const dovie = test.connect("Dovie");
    invite(test, ansel, dovie);
    expect(invite(test, ansel, corin).refused?.code).toBe("room-full");
    test.ok({ do: "room.uninvite", player: ansel, args: { player: dovie } });
    test.ok({ do: "room.operator-ban", room, player: dovie, reason: undefined });
    expect(invite(test, ansel, dovie).refused?.code).toBe("banned-from-room");
  });

  it("is bounded by whoever invites and whoever is invited", () => {
    const rules = testRules();
    const roomKinds = new Map(
      [...rules.roomKinds].map(([id, kind]) => [id, { ...kind, capacity: { min: 1, max: 64, default: 64 } }] as const),
    );
    const test = new TestHarbor({ ...rules, roomKinds, players: { ...rules.players, limit: 200 } });
    const host = test.connect("Ansel");
    openRoom(test, host, { capacity: 64 });
    const codes = Array.from({ length: 9 }, (_, n) => invite(test, host, test.connect(`Guest ${n}`)).refused?.code);
    expect(codes).toEqual([...Array.from({ length: 8 }, () => undefined), "too-many-invitations"]);
    const wanted = test.connect("Wanted");
    const invited = Array.from({ length: 17 }, (_, n) => {
      const other = test.connect(`Host ${n}`);
      openRoom(test, other, { capacity: 4 });
      return invite(test, other, wanted).refused?.code;
    });
    expect(invited.filter((code) => code !== undefined)).toEqual(["too-many-invitations"]);
  });
});
