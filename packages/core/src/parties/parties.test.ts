import { describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import { readSnapshot } from "../harbor/snapshot.ts";
import type { HarborRules } from "../model/rules.ts";
import { testRules } from "../testing/rules.ts";
import { foundParty } from "../testing/scenes.ts";
import { told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const open = (test: TestHarbor, player: string, args: object = {}) =>
  test.ask(player, { do: "room.open", player, args });
const roomOf = (test: TestHarbor, player: string) => test.harbor.state.players.byId.get(player)?.room;
const party = (test: TestHarbor, id: string) => test.harbor.state.parties.byId.get(id);
const kinds = (test: TestHarbor, player: string) => told(test, player).map(({ kind }) => kind);

describe("a party", () => {
  it("is joined by its code, and tells its members who is in it and where", () => {
    const test = new TestHarbor();
    const { code, players } = foundParty(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = players;
    expect(told(test, ansel).at(-1)).toMatchObject({
      kind: "party-changed",
      change: "joined",
      player: brisa,
      party: { code, leader: ansel, members: [{ name: "Ansel" }, { name: "Brisa", follows: true }] },
    });
    test.ok({ do: "party.set", player: brisa, args: { follows: false } });
    open(test, brisa);
    const room = roomOf(test, brisa);
    expect(told(test, ansel).at(-1)).toMatchObject({
      change: "member",
      party: { members: [{}, { room: { id: room } }] },
    });
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    expect(told(test, ansel).at(-1)).toMatchObject({ party: { members: [{}, { presence: "away" }] } });
    expect(test.resume(brisa).reply).toMatchObject({ party: { code, members: [{}, { presence: "here" }] } });
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("outlives its leader, and is gone with the last of it", () => {
    const test = new TestHarbor();
    const { party: id, players, code } = foundParty(test, "Ansel", "Brisa", "Corin");
    const [ansel = "", brisa = "", corin = ""] = players;
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    test.ok({ do: "party.leave", player: ansel, args: {} });
    // Brisa came before, and is away.
    expect(party(test, id)?.leader).toBe(corin);
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "out-of-party", cause: "left" });
    test.ok({ do: "player.leave", player: corin });
    test.pass(10_000);
    expect(party(test, id)).toBeUndefined();
    expect(test.refusal({ do: "party.join", player: ansel, args: { code } }).code).toBe("party-code-unknown");
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is led by another once its leader has been away for long, as soon as somebody else is here", () => {
    const test = new TestHarbor();
    const { party: id, players } = foundParty(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = players;
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    test.run({ do: "player.lose", player: ansel, connection: 1 });
    test.pass(2_500);
    expect(party(test, id)?.leader).toBe(ansel);
    test.resume(brisa);
    expect(party(test, id)?.leader).toBe(brisa);
    test.resume(ansel);
    expect(party(test, id)?.leader).toBe(brisa);
    test.ok({ do: "party.hand-over", player: brisa, args: { to: ansel } });
    expect(party(test, id)?.leader).toBe(ansel);
    expect(test.refusal({ do: "party.hand-over", player: brisa, args: { to: brisa } })).toMatchObject({
      code: "not-party-leader",
      detail: "Only the leader may hand it over; Ansel leads your party.",
    });
  });

  it("survives a restart and a snapshot, and its leader has the grace to come back", () => {
    const test = new TestHarbor();
    const { party: id, players } = foundParty(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = players;
    test.ok({ do: "party.invite", player: ansel, args: { account: "game:4" } });
    test.run({ do: "harbor.recover" });
    expect(readSnapshot(test.harbor.snapshot())?.parties).toEqual(test.harbor.state.parties);
    test.resume(brisa);
    test.pass(1_000);
    test.resume(ansel);
    test.pass(5_000);
    expect(party(test, id)).toMatchObject({ leader: ansel, leaderAwaySinceMs: null });
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("has one member fewer when the leader removes one, who learns of it also when it was away", () => {
    const test = new TestHarbor();
    const { party: id, players } = foundParty(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = players;
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    const kick = (player: string, by = ansel) =>
      test.run({ do: "party.kick", player: by, args: { player, reason: "away" } }).refused?.code;
    expect([kick(brisa, brisa), kick(ansel), kick("p_none"), kick(brisa)]).toEqual([
      "not-party-leader",
      "member-unknown",
      "member-unknown",
      undefined,
    ]);
    expect(party(test, id)?.members.size).toBe(1);
    expect(test.resume(brisa).reply).toMatchObject({
      missed: [{ kind: "out-of-party", cause: "kicked", why: "away" }],
    });
  });

  it("refuses whoever is in another, comes when it is full, or belongs to another lobby", () => {
    const test = new TestHarbor();
    const { code, players } = foundParty(test, "Ansel", "Brisa", "Corin", "Dovie");
    const edda = test.connect("Edda");
    const join = (player: string, typed = code) =>
      test.refusal({ do: "party.join", player, args: { code: typed } }).code;
    expect(join(edda)).toBe("party-full");
    expect(join(edda, "CCCCCCCC")).toBe("party-code-unknown");
    test.ok({ do: "party.open", player: edda, args: {} });
    expect(join(edda)).toBe("already-in-party");
    expect(test.refusal({ do: "party.open", player: edda, args: {} }).code).toBe("already-in-party");
    // Whoever asks twice is in, and nothing else happens.
    expect(test.ok({ do: "party.join", player: players[1] ?? "", args: { code } }).party.members).toHaveLength(4);
    expect(test.refusal({ do: "party.leave", player: test.connect("Fenn"), args: {} }).code).toBe("not-in-party");
  });
});

describe("an invitation into a party", () => {
  const invited = (rules?: HarborRules) => {
    const test = new TestHarbor(rules);
    const { party: id, players } = foundParty(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = players;
    const corin = test.connect("Corin");
    return { test, id, ansel, brisa, corin };
  };

  it("is told to the one alone, and used up by coming", () => {
    const { test, id, brisa, corin } = invited();
    const { untilMs } = test.ok({ do: "party.invite", player: brisa, args: { player: corin } });
    expect(told(test, corin)).toMatchObject([
      { kind: "party-invited", invitation: { party: id, by: { name: "Brisa" }, members: 2, untilMs } },
    ]);
    expect(test.resume(corin).reply).toMatchObject({ partyInvitations: [{ party: id }] });
    const { party: view } = test.ok({ do: "party.join", player: corin, args: { party: id } });
    expect(view.members).toHaveLength(3);
    expect(view.invited).toBeUndefined();
    expect(kinds(test, corin).at(-1)).toBe("party-invitation-ended");
  });

  it("ends by itself, is declined, taken back, or ends with the party, and each time it is told why", () => {
    const { test, id, ansel, brisa, corin } = invited();
    const invite = (by: string) => test.ok({ do: "party.invite", player: by, args: { player: corin } });
    const takeBack = (by: string) => test.run({ do: "party.uninvite", player: by, args: { player: corin } });
    invite(ansel);
    test.ok({ do: "party.decline", player: corin, args: { party: id } });
    invite(ansel);
    expect(takeBack(brisa).refused?.code).toBe("not-party-leader");
    takeBack(ansel);
    expect(takeBack(ansel).refused?.code).toBe("not-invited");
    invite(brisa);
    test.pass(10_001);
    invite(brisa);
    for (const player of [brisa, ansel]) test.ok({ do: "party.leave", player, args: {} });
    const ends = told(test, corin).flatMap((one) => (one.kind === "party-invitation-ended" ? [one.cause] : []));
    expect(ends).toEqual(["declined", "cancelled", "expired", "closed"]);
    expect(test.harbor.state.parties.invitedTo.size).toBe(0);
    expect(test.refusal({ do: "party.join", player: corin, args: { party: id } }).code).toBe("not-invited");
  });

  it("is not heard by who has muted them, and holds nobody up", () => {
    const { test, id, ansel, corin } = invited();
    test.ok({ do: "room.mute-invites", player: corin, args: { muted: true } });
    test.ok({ do: "party.invite", player: ansel, args: { player: corin } });
    expect(kinds(test, corin)).toEqual([]);
    expect(open(test, corin).refused).toBeUndefined();
    const heard = test.ok({ do: "room.mute-invites", player: corin, args: { muted: false } });
    expect(heard.partyInvitations).toMatchObject([{ party: id }]);
  });

  it("is refused for who is in, who is gone, where nobody may, and beyond so many", () => {
    const { test, ansel, brisa } = invited();
    const invite = (to: object) =>
      test.run({ do: "party.invite", player: ansel, args: to as { player: string } }).refused?.code;
    expect([invite({ player: brisa }), invite({ player: "p_none" })]).toEqual(["already-in-party", "player-unknown"]);
    const codes = Array.from({ length: 9 }, (_, n) => invite({ account: `game:${n}` }));
    expect(codes).toEqual([...Array.from({ length: 8 }, () => undefined), "too-many-invitations"]);
    const rules = testRules();
    const [[lobby, quayside] = ["", undefined]] = rules.lobbies;
    if (quayside === undefined) throw new Error("no lobby");
    const closed = { ...quayside, party: { ...quayside.party, invites: "nobody" as const } };
    const other = invited({ ...rules, lobbies: new Map([[lobby, closed]]) });
    expect(other.test.refusal({ do: "party.invite", player: other.ansel, args: { player: other.corin } }).code).toBe(
      "invites-not-yours",
    );
  });
});

describe("the leader of a party", () => {
  it("brings along whoever follows, on its own side, and the room has a place for all", () => {
    const test = new TestHarbor();
    const { players } = foundParty(test, "Ansel", "Brisa", "Corin");
    const [ansel = "", brisa = "", corin = ""] = players;
    open(test, ansel, { kind: "sided" });
    const room = roomOf(test, ansel) ?? "";
    const members = [...test.room(room).members.values()];
    expect(members.map(({ name, side }) => [name, side])).toEqual([
      ["Ansel", "north"],
      ["Brisa", "north"],
      ["Corin", "south"],
    ]);
    expect([brisa, corin].map((one) => roomOf(test, one))).toEqual([room, room]);
    // They hear of it as of a room that they did not ask for.
    expect(kinds(test, brisa)).toContain("into-room");
    expect(test.views.get(corin)?.room?.id).toBe(room);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("goes alone where it says so, and nobody comes who stays behind, is away, or plays elsewhere", () => {
    const test = new TestHarbor();
    const { players } = foundParty(test, "Ansel", "Brisa", "Corin");
    const [ansel = "", brisa = "", corin = ""] = players;
    test.ok({ do: "party.set", player: brisa, args: { follows: false } });
    test.run({ do: "player.lose", player: corin, connection: 1 });
    open(test, ansel);
    expect([brisa, corin].map((one) => roomOf(test, one))).toEqual([null, null]);
    test.ok({ do: "party.set", player: brisa, args: { follows: true } });
    test.resume(corin);
    open(test, ansel, { move: true, alone: true });
    expect([brisa, corin].map((one) => roomOf(test, one))).toEqual([null, null]);
    // It fetches them afterwards.
    expect(test.ok({ do: "party.bring", player: ansel, args: {} }).came).toEqual([brisa, corin]);
    expect(test.refusal({ do: "party.bring", player: brisa, args: {} }).code).toBe("not-party-leader");
  });

  it("takes them on from room to room", () => {
    const test = new TestHarbor();
    const { players } = foundParty(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = players;
    open(test, ansel);
    const first = roomOf(test, ansel);
    open(test, ansel, { move: true });
    expect(roomOf(test, brisa)).toBe(roomOf(test, ansel));
    expect(roomOf(test, ansel)).not.toBe(first);
    expect(test.harbor.state.rooms.byId.has(first ?? "")).toBe(false);
  });

  it("finds by quick-join a room that has a place for all of them, and is refused a room that has not", () => {
    const test = new TestHarbor();
    const small = test.connect("Edda");
    open(test, small, { kind: "crews", capacity: 3 });
    const large = test.connect("Fenn");
    open(test, large, { kind: "crews", capacity: 6 });
    const { players } = foundParty(test, "Ansel", "Brisa", "Corin");
    const [ansel = "", brisa = ""] = players;
    const room = roomOf(test, small) ?? "";
    const refused = test.refusal({ do: "room.join", player: ansel, args: { room } });
    expect(refused).toMatchObject({ code: "party-does-not-fit" });
    expect(refused.detail).toMatch(/has 2 open places, and Brisa, Corin would come along\. Choose another room/);
    test.ok({ do: "room.quick-join", player: ansel, args: {} });
    expect(players.map((one) => roomOf(test, one))).toEqual(players.map(() => roomOf(test, large)));
    // One who may not come in keeps all of them out, unless the leader goes alone.
    test.ok({ do: "room.operator-ban", room, player: brisa, reason: undefined });
    const banned = test.refusal({ do: "room.join", player: ansel, args: { room, move: true } });
    expect(banned.detail).toMatch(/^Brisa cannot come along: it is banned from room/);
    test.ok({ do: "room.join", player: ansel, args: { room, move: true, alone: true } });
  });

  it("is refused a new room that is too small for all", () => {
    const test = new TestHarbor();
    const { players } = foundParty(test, "Ansel", "Brisa", "Corin");
    const refused = test.refusal({ do: "room.open", player: players[0] ?? "", args: { kind: "crews", capacity: 2 } });
    expect(refused).toMatchObject({ code: "party-does-not-fit", detail: expect.stringContaining("3 together") });
  });
});
