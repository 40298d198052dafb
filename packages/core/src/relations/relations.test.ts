import { describe, expect, it } from "vitest";
import { readSnapshot, writeSnapshot } from "../harbor/snapshot.ts";
import type { HarborRules } from "../model/rules.ts";
import { testRules } from "../testing/rules.ts";
import { openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { friendsOf, relationsView } from "./view.ts";

const known = (id: string) => ({ account: `game:${id}`, roles: [], vouched: {} });

/** A player with an account, who knows and has blocked those. */
function come(test: TestHarbor, id: string, relations?: { friends?: string[]; blocked?: string[] }): string {
  const hello = {
    do: "player.connect",
    name: `Player ${id}`,
    build: "game-1",
    lobby: undefined,
    connection: 1,
  } as const;
  return test.ok({ ...hello, identity: known(id), ...(relations && { relations }) }).player.id;
}

const block = (test: TestHarbor, player: string, args: { player: string } | { account: string }) =>
  test.ok({ do: "blocks.add", player, args }).blocked;

function withKinds(change: Partial<HarborRules["roomKinds"] extends ReadonlyMap<string, infer K> ? K : never>) {
  const rules = testRules();
  return testRules({ roomKinds: new Map([...rules.roomKinds].map(([id, kind]) => [id, { ...kind, ...change }])) });
}

describe("friends", () => {
  it("are seen where they are, by whoever knows them and by nobody else, and not while they hide", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1", { friends: ["game:2", "game:3"] });
    const brisa = come(test, "2");
    expect(friendsOf(test.harbor.state, ansel)).toEqual([
      { account: "game:2", player: brisa, name: "Player 2", presence: "here", lobby: "quayside" },
    ]);
    expect(friendsOf(test.harbor.state, brisa)).toEqual([]);
    const room = openRoom(test, brisa);
    expect(friendsOf(test.harbor.state, ansel)).toMatchObject([
      { room: { id: room, phase: "gathering", isOpen: true } },
    ]);
    test.ok({ do: "friends.hide", player: brisa, args: { hidden: true } });
    expect(friendsOf(test.harbor.state, ansel)).toEqual([]);
    test.ok({ do: "friends.hide", player: brisa, args: { hidden: false } });
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    expect(friendsOf(test.harbor.state, ansel)).toMatchObject([{ presence: "away" }]);
  });

  it("are followed into a listed room, and into one that is joined by code where its kind says so", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1", { friends: ["game:2"] });
    const brisa = come(test, "2");
    const follow = { do: "room.join", player: ansel, args: { friend: "game:2" } } as const;
    expect(test.refusal(follow).code).toBe("friend-elsewhere");
    const room = openRoom(test, brisa);
    expect(test.ok(follow).room.id).toBe(room);
    test.ok({ do: "room.leave", player: ansel, args: {} });
    test.ok({ do: "room.change", player: brisa, args: { visibility: "code-only" } });
    expect(test.refusal(follow).code).toBe("friend-elsewhere");
    expect(friendsOf(test.harbor.state, ansel)[0]?.room).toEqual({ kind: "crews", phase: "gathering", isOpen: false });
    // Whoever is not known is nowhere, wherever it is.
    expect(test.refusal({ ...follow, player: brisa, args: { friend: "game:1" } }).code).toBe("not-friends");

    const open = new TestHarbor(withKinds({ friendsJoin: true }));
    const corin = come(open, "1", { friends: ["game:2"] });
    const dovie = come(open, "2");
    const hidden = open.ok({ do: "room.open", player: dovie, args: { visibility: "code-only" } }).room;
    expect(open.ok({ ...follow, player: corin }).room.id).toBe(hidden.id);
    open.ok({ do: "room.change", player: dovie, args: { visibility: "locked" } });
    open.ok({ do: "room.leave", player: corin, args: {} });
    expect(open.refusal({ ...follow, player: corin }).code).toBe("room-locked");
  });

  it("are those that the back end named last, also while the player is here, and forgotten with the player", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1", { friends: ["game:2"] });
    come(test, "2");
    const set = { do: "friends.set", player: ansel } as const;
    expect(test.ok({ ...set, set: { friends: ["game:3"], blocked: ["game:9"] } })).toEqual({
      player: ansel,
      name: "Player 1",
      friends: ["game:3"],
      blocked: [{ account: "game:9" }],
      hidden: false,
    });
    expect(friendsOf(test.harbor.state, ansel)).toEqual([]);
    // The same again is no event; a token that says nothing of it changes nothing.
    expect(test.run({ ...set, set: { friends: ["game:3"] } }).appliedEvents).toEqual([]);
    come(test, "1");
    expect(relationsView(test.harbor.state, ansel).friends).toEqual(["game:3"]);
    expect(readSnapshot(writeSnapshot(test.harbor.state))?.relations).toEqual(test.harbor.state.relations);
    test.ok({ do: "player.leave", player: ansel });
    expect(test.harbor.state.relations.byPlayer.size).toBe(0);
    expect(test.refusal({ ...set, set: { friends: [] } }).code).toBe("player-unknown");
  });
});

describe("who is blocked", () => {
  it("sees nothing of the other, and its invitations are not heard, also when it comes again as another player", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1", { friends: ["game:2"] });
    const brisa = come(test, "2");
    expect(block(test, brisa, { player: ansel })).toEqual([{ player: ansel, name: "Player 1" }]);
    expect(friendsOf(test.harbor.state, ansel)).toEqual([]);
    test.ok({ do: "player.leave", player: ansel });
    const again = come(test, "1", { friends: ["game:2"] });
    expect(friendsOf(test.harbor.state, again)).toEqual([]);
    openRoom(test, again);
    const invited = test.run({ do: "room.invite", player: again, args: { player: brisa } });
    expect(invited.refused).toBeUndefined();
    expect(invited.appliedEvents.flatMap(({ pushes }) => pushes).filter(({ scope }) => scope === "you")).toEqual([]);
    // It may come all the same.
    expect(test.ok({ do: "blocks.remove", player: brisa, args: { player: ansel } }).blocked).toEqual([]);
    expect(friendsOf(test.harbor.state, again)).toMatchObject([{ account: "game:2" }]);
  });

  it("learns no account by being guessed at, and whoever guesses learns none", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [come(test, "1"), come(test, "2")];
    block(test, ansel, { player: brisa });
    const removed = test.ok({ do: "blocks.remove", player: ansel, args: { account: "game:2" } });
    expect(removed.blocked).toEqual([{ player: brisa, name: "Player 2" }]);
    expect(block(test, ansel, { account: "game:2" })).toHaveLength(2);
    expect(block(test, ansel, { account: "game:77" })).toHaveLength(3);
    expect(block(test, ansel, { player: brisa })).toHaveLength(3);
    expect(test.refusal({ do: "blocks.add", player: ansel, args: { player: ansel } }).code).toBe("not-yourself");
    expect(test.refusal({ do: "blocks.add", player: ansel, args: { player: "p_none" } }).code).toBe("player-unknown");
  });

  it("is kept by what the player itself said where the back end cannot know it, and no more than so many", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1");
    const guest = test.connect("Guest");
    block(test, ansel, { player: guest });
    test.ok({
      do: "friends.set",
      player: ansel,
      set: { blocked: Array.from({ length: 150 }, (_, n) => `game:b${n}`) },
    });
    expect(block(test, ansel, { account: "game:b3" })).toHaveLength(151);
    for (let n = 0; n < 49; n++) block(test, ansel, { account: `game:c${n}` });
    const refused = test.refusal({ do: "blocks.add", player: ansel, args: { account: "game:c99" } });
    expect(refused.code).toBe("too-many-blocked");
  });
});

describe("a person whose data is erased", () => {
  it("is known to nobody and blocked by nobody any more, and the others stay", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1", { friends: ["game:2", "game:3"], blocked: ["game:2", "game:4"] });
    const brisa = come(test, "2");
    block(test, ansel, { player: brisa });
    block(test, ansel, { player: test.connect("Guest") });
    test.ok({ do: "friends.forget", account: "game:2", players: [brisa] });
    const { friends, blocked } = relationsView(test.harbor.state, ansel);
    expect(friends).toEqual(["game:3"]);
    expect(blocked).toMatchObject([{ account: "game:4" }, { name: "Guest" }]);
    expect(JSON.stringify([...test.harbor.state.relations.byPlayer])).not.toContain("game:2");
  });
});

describe("invitations", () => {
  it("of friends alone are heard by whoever has muted the others", () => {
    const test = new TestHarbor();
    const ansel = come(test, "1");
    const brisa = come(test, "2");
    const corin = come(test, "3", { friends: ["game:1"] });
    for (const host of [ansel, brisa]) {
      openRoom(test, host);
      test.ok({ do: "room.invite", player: host, args: { player: corin } });
      test.ok({ do: "party.open", player: host, args: {} });
      test.ok({ do: "party.invite", player: host, args: { player: corin } });
    }
    const mute = { do: "room.mute-invites", player: corin } as const;
    const heard = test.ok({ ...mute, args: { muted: true, exceptFriends: true } });
    expect(heard.invitations).toMatchObject([{ by: { id: ansel } }]);
    expect(heard.partyInvitations).toMatchObject([{ by: { id: ansel } }]);
    expect(test.ok({ ...mute, args: { muted: true } }).invitations).toEqual([]);
    expect(test.ok({ ...mute, args: { muted: false } }).invitations).toHaveLength(2);
  });

  it("into parties are for friends alone where the lobby says so", () => {
    const rules = testRules();
    const lobbies = [...rules.lobbies].map(([id, one]) => {
      return [id, { ...one, party: { ...one.party, invites: "friends" as const } }] as const;
    });
    const test = new TestHarbor(testRules({ lobbies: new Map(lobbies) }));
    const ansel = come(test, "1", { friends: ["game:2", "game:9"] });
    const brisa = come(test, "2");
    const guest = test.connect("Guest");
    test.ok({ do: "party.open", player: ansel, args: {} });
    const invite = { do: "party.invite", player: ansel } as const;
    test.ok({ ...invite, args: { player: brisa } });
    test.ok({ ...invite, args: { account: "game:9" } });
    for (const args of [{ player: guest }, { account: "game:8" }]) {
      expect(test.refusal({ ...invite, args }).code).toBe("not-friends");
    }
  });
});
