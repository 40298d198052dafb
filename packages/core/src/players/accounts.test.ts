import { describe, expect, it } from "vitest";
import { readSnapshot, writeSnapshot } from "../harbor/snapshot.ts";
import type { HarborRules } from "../model/rules.ts";
import { moderatedRoom } from "../rooms/entry/decide-leaving.ts";
import { testRules } from "../testing/rules.ts";
import { joinRoom, openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { nameSkeleton } from "./skeleton.ts";

const hello = { do: "player.connect", name: "Ansel", build: "game-1", lobby: undefined, connection: 1 } as const;
const game = (id: string, more: { roles?: string[]; vouched?: Record<string, number> } = {}) => ({
  account: `game:${id}`,
  roles: more.roles ?? [],
  vouched: more.vouched ?? {},
});

function withLobby(change: Partial<{ guests: boolean; uniqueNames: boolean }>, sameAccount?: "refuse"): HarborRules {
  const rules = testRules();
  const lobbies = new Map([...rules.lobbies].map(([id, lobby]) => [id, { ...lobby, ...change }]));
  return testRules({ lobbies, players: { ...rules.players, ...(sameAccount && { sameAccount }) } });
}

describe("an account", () => {
  it("is the same player by another connection, in its room, with what is vouched for now", () => {
    const test = new TestHarbor();
    const first = test.ok({ ...hello, identity: game("1") });
    const room = openRoom(test, first.player.id);
    const second = test.ok({ ...hello, name: "Other", connection: 2, identity: game("1", { vouched: { skill: 7 } }) });
    expect(second).toMatchObject({ resumed: true, player: { id: first.player.id, name: "Ansel", account: "game:1" } });
    expect(second.room?.id).toBe(room);
    expect(test.harbor.state.players.byId.get(first.player.id)).toMatchObject({
      connection: 2,
      identity: { vouched: { skill: 7 } },
    });
    // Once it has left, it is a new player.
    test.ok({ do: "player.leave", player: first.player.id });
    expect(test.ok({ ...hello, identity: game("1") }).resumed).toBe(false);
  });

  it("that is here is refused a second time where the configuration says so, and taken up while it is away", () => {
    const test = new TestHarbor(withLobby({}, "refuse"));
    const { player } = test.ok({ ...hello, identity: game("1") });
    expect(test.refusal({ ...hello, identity: game("1") }).code).toBe("account-in-use");
    test.run({ do: "player.lose", player: player.id, connection: 1 });
    expect(test.ok({ ...hello, identity: game("1") }).player.id).toBe(player.id);
  });

  it("is what a guest becomes, in its room; not one that has a player, and not a second one", () => {
    const test = new TestHarbor();
    const guest = test.connect("Brisa");
    const room = openRoom(test, guest);
    const resume = { do: "player.resume", player: guest, connection: 2 } as const;
    test.ok({ ...hello, identity: game("taken") });
    expect(test.refusal({ ...resume, identity: game("taken") }).code).toBe("account-in-use");
    const now = test.ok({ ...resume, identity: game("2") });
    expect(now).toMatchObject({ player: { id: guest, account: "game:2" }, room: { id: room } });
    expect(test.refusal({ ...resume, identity: game("3") }).code).toBe("account-differs");
    expect(test.ok({ ...hello, identity: game("2") }).player.id).toBe(guest);
    expect(readSnapshot(writeSnapshot(test.harbor.state))?.players).toEqual(test.harbor.state.players);
  });

  it("that was away holds a whole state of its room when it comes back, whatever happened there meanwhile", () => {
    const test = new TestHarbor();
    const ansel = test.connectAs("game:1") ?? "";
    const room = openRoom(test, ansel);
    const brisa = test.connect("Brisa");
    joinRoom(test, room, brisa);
    test.ok({ do: "room.pass-turn", player: ansel, args: {} });
    test.run({ do: "player.lose", player: ansel, connection: 1 });
    test.ok({ do: "board.set", player: brisa, args: { key: "flag", value: 1 } });
    // The turn goes to whoever is there: the one that comes back, before it has its welcome.
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    expect(test.connectAs("game:1")).toBe(ansel);
    test.resume(brisa);
    expect(test.views.get(ansel)?.room).toEqual(test.views.get(brisa)?.room);
    test.ok({ do: "board.set", player: brisa, args: { key: "flag", value: 2 } });
    expect(test.views.get(ansel)?.room?.board).toMatchObject({ flag: { box: [2] } });
  });

  it("keeps a token that is good for one use from being used twice, as long as it lasts", () => {
    const test = new TestHarbor();
    const token = { id: "once", untilMs: test.now + 10_000 };
    const { player } = test.ok({ ...hello, identity: game("1"), token });
    test.ok({ do: "player.leave", player: player.id });
    expect(test.refusal({ ...hello, identity: game("1"), token }).code).toBe("account-token-used");
    test.pass(10_000);
    test.ok({ ...hello, identity: game("1"), token: { id: "other", untilMs: test.now + 10_000 } });
    expect([...test.harbor.state.players.usedTokens.keys()]).toEqual(["other"]);
  });

  it("keeps the pause that it got for letting matches go, also as another player", () => {
    const test = new TestHarbor();
    const search = (player: string) => ({ do: "queue.join", player, args: { queue: "confirming-pairs" } }) as const;
    const bring = (id: string) => test.ok({ ...hello, identity: game(id, { vouched: { skill: 10 } }) }).player.id;
    const args = (player: string) => ({
      ...search(player),
      args: { ...search(player).args, attributes: { skill: 10 } },
    });
    const [ansel, brisa] = [bring("1"), bring("2")];
    test.ok(args(ansel));
    const { ticket } = test.ok(args(brisa));
    test.pass(1_000);
    const match = test.harbor.state.queues.tickets.get(ticket.id)?.asked ?? "";
    test.ok({ do: "queue.confirm", player: ansel, args: { match, accept: false } });
    test.ok({ do: "player.leave", player: ansel });
    expect(test.refusal(args(bring("1"))).code).toBe("search-too-soon");
    test.ok({ do: "player.leave", player: brisa });
    test.ok(args(bring("3")));
  });
});

describe("what is vouched for", () => {
  const rules = testRules();
  const queues = new Map([...rules.queues].map(([id, queue]) => [id, { ...queue, vouched: ["skill"] }]));
  const search = (player: string) =>
    ({ do: "queue.join", player, args: { queue: "pairs", attributes: { skill: 9_999 } } }) as const;

  it("counts in place of what a client says, which alone is not enough", () => {
    const test = new TestHarbor(testRules({ queues }));
    const { player } = test.ok({ ...hello, identity: game("1", { vouched: { skill: 40 } }) });
    const { ticket } = test.ok(search(player.id));
    expect(test.harbor.state.queues.tickets.get(ticket.id)?.players[0]?.attributes).toMatchObject({ skill: 40 });
    expect(test.refusal(search(test.connect("Brisa"))).code).toBe("attribute-missing");
  });
});

describe("a lobby", () => {
  it("without guests lets accounts of the game in alone", () => {
    const test = new TestHarbor(withLobby({ guests: false }));
    expect(test.refusal(hello).code).toBe("account-needed");
    expect(test.refusal({ ...hello, identity: { account: "device:x", roles: [], vouched: {} } }).code).toBe(
      "account-needed",
    );
    test.ok({ ...hello, identity: game("1") });
  });

  it("with unique names refuses one that looks like another, until that has left", () => {
    const test = new TestHarbor(withLobby({ uniqueNames: true }));
    const ansel = test.connect("Ansel");
    for (const name of ["ANSEL", "Аnsel", "An\u200dsel", "Änsel", "A n-s_e.l", "AnseI"]) {
      expect(test.refusal({ ...hello, name }).code, name).toBe("name-taken");
    }
    test.connect("Brisa");
    test.ok({ do: "player.leave", player: ansel });
    test.connect("Аnsel");
  });

  it("asks for a name where neither hello nor token has one", () => {
    expect(new TestHarbor().refusal({ ...hello, name: "", identity: game("1") }).code).toBe("name-needed");
  });
});

describe("the skeleton of a name", () => {
  it("keeps apart what readers tell apart", () => {
    const names = ["Ansel", "Brisa", "Corin", "Fenn", "李明", "Ιωάννα", "Ольга", "😀"];
    expect(new Set(names.map(nameSkeleton)).size).toBe(names.length);
  });
});

describe("a resume token", () => {
  it("is replaced by that of the newest welcome once that was shown", () => {
    const test = new TestHarbor();
    const first = test.ok(hello);
    const resume = { do: "player.resume", player: first.player.id, connection: 2 } as const;
    expect(first.resumeNumber).toBe(1);
    // The welcome may get lost: the token before is still good.
    expect(test.ok({ ...resume, shown: 1 }).resumeNumber).toBe(2);
    expect(test.ok({ ...resume, shown: 1 }).resumeNumber).toBe(3);
    test.ok({ ...resume, shown: 3 });
    expect(test.refusal({ ...resume, shown: 1 }).code).toBe("token-invalid");
    expect(test.refusal({ ...resume, shown: 2 }).code).toBe("token-invalid");
    test.ok({ ...resume, shown: 4 });
  });
});

describe("a ban from a room", () => {
  const identity = { account: "device:k", roles: [], vouched: {} };

  it("holds to the account, and to the network of a guest, whatever player they come as", () => {
    const test = new TestHarbor();
    const host = test.connect("Host");
    const room = openRoom(test, host);
    const banAll = (id: string) => {
      joinRoom(test, room, id);
      test.ok({ do: "room.kick", player: host, args: { player: id, ban: true } });
      test.ok({ do: "player.leave", player: id });
    };
    banAll(test.ok({ ...hello, identity: game("1") }).player.id);
    banAll(test.ok({ ...hello, origin: "net-a" }).player.id);
    const code = (more: object) => {
      const { player } = test.ok({ ...hello, ...more });
      const { refused } = test.run({ do: "room.join", player: player.id, args: { room } });
      test.ok({ do: "player.leave", player: player.id });
      return refused?.code;
    };
    expect(code({ identity: game("1") })).toBe("banned-from-room");
    expect(code({ origin: "net-a" })).toBe("banned-from-room");
    expect(code({ origin: "net-a", identity })).toBe("banned-from-room");
    expect(code({ origin: "net-b" })).toBeUndefined();
    expect(code({ identity: game("2"), origin: "net-a" })).toBeUndefined();
  });

  it("is set by a moderator who is in the room, and by no other member", () => {
    const test = new TestHarbor();
    const room = openRoom(test, test.connect("Host"));
    const [rude, member] = [test.connect("Rude"), test.connect("Member")];
    const moderator = test.ok({ ...hello, identity: game("9", { roles: ["moderator"] }) }).player.id;
    for (const id of [rude, member, moderator]) joinRoom(test, room, id);
    const kick = (player: string) => ({ do: "room.kick", player, args: { player: rude, ban: true } }) as const;
    expect(test.refusal(kick(member)).code).toBe("not-host");
    expect([rude, member, moderator].map((id) => moderatedRoom(test.harbor.state, id)?.id)).toEqual([
      undefined,
      undefined,
      room,
    ]);
    expect(moderatedRoom(test.harbor.state, test.room(room).host ?? "")).toBeUndefined();
    test.ok(kick(moderator));
    expect(test.room(room).banned.has(rude)).toBe(true);
  });
});
