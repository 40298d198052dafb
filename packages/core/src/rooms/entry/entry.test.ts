import { CODE_ALPHABET, harborOfId } from "@yellow-harbor/protocol";
import { beforeEach, describe, expect, it } from "vitest";
import { Harbor } from "../../harbor/harbor.ts";
import { matchesOf } from "../../model/pools/holds.ts";
import { testRules } from "../../testing/rules.ts";
import { boardAll, bringUp, instanceOf, joinRoom, openRoom, playRoom, startRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";
import { explainJoin } from "../start/obstacles.ts";
import { CODE_SPACE, codeOf, harborOfCode } from "./codes.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let corin: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [string, string, string];
});

const roomOf = (player: string) => test.harbor.state.players.byId.get(player)?.room;

describe("joining another room", () => {
  it("is refused, and with move takes the player over in one step", () => {
    const [first, second] = [openRoom(test, ansel, { capacity: 3 }), openRoom(test, corin, { capacity: 3 })];
    joinRoom(test, first, brisa);
    expect(test.refusal({ do: "room.join", player: brisa, args: { room: second } })).toMatchObject({
      code: "already-in-room",
    });
    const { appliedEvents } = test.ask(brisa, { do: "room.join", player: brisa, args: { room: second, move: true } });
    expect(roomOf(brisa)).toBe(second);
    expect([...test.room(first).members.keys()]).toEqual([ansel]);
    // Nobody in the lobby is told of somebody who only passes through.
    expect(appliedEvents.map(({ event }) => event.kind).filter((kind) => kind.startsWith("lobby."))).toEqual([]);
    expect(test.views.get(brisa)?.room?.id).toBe(second);
  });

  it("leaves the old room when the new one is opened, and closes it behind the last one", () => {
    const first = openRoom(test, ansel);
    const second = openRoom(test, ansel, { move: true });
    expect(test.harbor.state.rooms.byId.has(first)).toBe(false);
    expect(roomOf(ansel)).toBe(second);
  });

  it("keeps the player where it is when the other room does not let it in", () => {
    const first = openRoom(test, ansel);
    const full = openRoom(test, corin, { capacity: 1 });
    expect(test.refusal({ do: "room.join", player: ansel, args: { room: full, move: true } }).code).toBe("room-full");
    expect(roomOf(ansel)).toBe(first);
    const same = test.refusal({ do: "room.join", player: ansel, args: { room: first, move: true } });
    expect(same.code).toBe("already-in-room");
  });
});

describe("entering by name", () => {
  const joinOrOpen = (player: string, name: string) =>
    test.ask(player, { do: "room.join-or-open", player, args: { name, capacity: 2 } }).reply as {
      room: { id: string };
      opened: boolean;
    };

  it("opens the room for the first and brings the others to it, however they write it", () => {
    const first = joinOrOpen(ansel, "Spring Tide");
    const second = joinOrOpen(brisa, "spring ｔide");
    expect([first.opened, second.opened, second.room.id]).toEqual([true, false, first.room.id]);
  });

  it("does not open a second one of that name when the first is full", () => {
    joinOrOpen(ansel, "Spring Tide");
    joinOrOpen(brisa, "Spring Tide");
    const refused = test.refusal({ do: "room.join-or-open", player: corin, args: { name: "Spring Tide" } });
    expect(refused.code).toBe("room-full");
  });

  it("finds a room by its new name after a change, and not by the old one", () => {
    const { room } = joinOrOpen(ansel, "Spring Tide");
    test.ok({ do: "room.change", player: ansel, args: { name: "Neap Tide" } });
    expect(joinOrOpen(brisa, "neap tide").room.id).toBe(room.id);
    expect(joinOrOpen(corin, "spring tide").opened).toBe(true);
  });
});

describe("quickJoin", () => {
  const quickJoin = (player: string, level?: string) =>
    (test.ask(player, { do: "room.quick-join", player, args: { level } }).reply as { room: { id: string } }).room.id;
  const measure = (player: string, latencyMs: number) =>
    test.ok({ do: "player.measure", player, latency: { latencyMs, jitterMs: 1 } });

  it("prefers by latency where places are the same, and by age where that is the same too", () => {
    const [far, near] = [openRoom(test, ansel, { capacity: 3 }), openRoom(test, brisa, { capacity: 3 })];
    measure(ansel, 90);
    measure(brisa, 20);
    expect(quickJoin(corin)).toBe(near);
    test.ok({ do: "room.leave", player: corin, args: {} });
    measure(ansel, 10);
    expect(quickJoin(corin)).toBe(far);
  });

  it("goes by the lobby's own order of preference", () => {
    const rules = testRules();
    const quayside = rules.lobbies.get("quayside");
    if (quayside === undefined) throw new Error("no quayside");
    test = new TestHarbor({ ...rules, lobbies: new Map([["quayside", { ...quayside, quickJoinBy: ["age"] }]]) });
    const [old, young, dovie, edda] = ["Old", "Young", "Dovie", "Edda"].map((name) => test.connect(name)) as string[];
    const first = openRoom(test, old as string, { capacity: 6 });
    test.pass(10);
    joinRoom(test, openRoom(test, young as string, { capacity: 3 }), dovie as string);
    expect(quickJoin(edda as string)).toBe(first);
  });

  it("for a level passes over rooms that have picked another", () => {
    const other = openRoom(test, ansel, { capacity: 3 });
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "gull-flats" } });
    expect(quickJoin(brisa, "brine-gate")).not.toBe(other);
    expect(quickJoin(corin, "gull-flats")).toBe(other);
  });
});

describe("a room", () => {
  it("takes in only players with the build it was opened with", () => {
    const room = openRoom(test, ansel);
    const reply = test.ok({ do: "player.connect", name: "Old", build: "game-0", lobby: undefined, connection: 1 });
    const { id } = (reply as { player: { id: string } }).player;
    expect(test.refusal({ do: "room.join", player: id, args: { room } }).code).toBe("room-build-differs");
    const quickJoin = test.ask(id, { do: "room.quick-join", player: id, args: {} });
    expect(quickJoin.reply).toMatchObject({ opened: true });
  });

  it("with all sides full says so, and lets one ask for a side", () => {
    const room = openRoom(test, ansel, { kind: "sided", capacity: 6 });
    const more = ["Dovie", "Edda"].map((name) => test.connect(name)) as [string, string];
    test.ask(brisa, { do: "room.join", player: brisa, args: { room, side: "north" } });
    const refused = test.refusal({ do: "room.join", player: corin, args: { room, side: "north" } });
    expect(refused.code).toBe("side-full");
    expect(test.refusal({ do: "room.join", player: corin, args: { room, side: "west" } }).code).toBe("side-unknown");
    joinRoom(test, room, corin, more[0]);
    expect(test.refusal({ do: "room.join", player: more[1], args: { room } }).code).toBe("side-full");
  });

  it("that outlives the whole cycle of codes keeps its own", () => {
    const room = openRoom(test, ansel);
    const { codeKey, share } = test.harbor.rules;
    test.harbor.state.rooms.opened = Math.floor(CODE_SPACE / share.of);
    const other = openRoom(test, brisa);
    expect(test.room(other).code).not.toBe(test.room(room).code);
    expect(test.room(other).code).toBe(codeOf(share.of + share.number, codeKey));
    expect(harborOfCode(test.room(other).code, test.harbor.rules)).toBe(harborOfId(other));
    expect([...test.room(other).code].every((letter) => CODE_ALPHABET.includes(letter))).toBe(true);
  });
});

describe("joining late", () => {
  const passesFor = (player: string, from: number) =>
    test.journal.slice(from).filter(({ event }) => event.kind === "instance.berth-added" && event.player.id === player);

  it("is refused unless the room kind is open for it", () => {
    const room = openRoom(test, ansel);
    joinRoom(test, room, brisa);
    startRoom(test, room);
    expect(test.refusal({ do: "room.join", player: corin, args: { room } }).code).toBe("room-started");
  });

  it("into a run brings a berth, an instruction for the instance, and a pass at once", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    playRoom(test, room);
    const from = test.journal.length;
    const { appliedEvents } = test.ask(corin, { do: "room.join", player: corin, args: { room } });
    const passes = appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "pass");
    expect(passes).toMatchObject([{ to: corin, pass: { room, player: corin } }]);
    expect(passesFor(corin, from)).toHaveLength(1);
    const instance = test.instance(instanceOf(test, room));
    expect(instance.instructions.at(-1)).toMatchObject({
      instruction: "expect-player",
      player: { id: corin, name: "Corin" },
    });
    boardAll(test, room);
    expect(matchesOf(instance)[0]?.berths.get(corin)?.state).toBe("taken");
  });

  it("while the instance is prepared makes one a traveller like the others", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    startRoom(test, room);
    joinRoom(test, room, corin);
    bringUp(test, room);
    expect(test.views.get(ansel)?.room?.travel?.waitingFor).toEqual([ansel, brisa, corin]);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
  });

  it("of a member who was away at the start brings it along when it is back", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa, corin);
    test.run({ do: "player.lose", player: corin, connection: 1 });
    playRoom(test, room);
    expect(matchesOf(test.instance(instanceOf(test, room)))[0]?.berths.has(corin)).toBe(false);
    test.resume(corin);
    expect(matchesOf(test.instance(instanceOf(test, room)))[0]?.berths.get(corin)?.state).toBe("reserved");
  });
});

describe("rooms of one name", () => {
  it("are found the oldest first, also by a harbor that was recovered after one was renamed", () => {
    const first = openRoom(test, ansel, { name: "Neap" });
    test.now += 10;
    openRoom(test, brisa, { name: "Slack water" });
    test.ok({ do: "room.change", player: ansel, args: { name: "Slack water" } });
    const ask = { do: "room.join-or-open", player: corin, args: { name: "Slack water" } } as const;
    const recovered = Harbor.fromSnapshot(test.harbor.rules, test.harbor.snapshot());
    const stamp = { at: test.now + 10, entropy: [1, 2, 3, 4] as const };
    for (const harbor of [recovered, test.harbor]) {
      expect(harbor?.execute(ask, stamp).reply).toMatchObject({ room: { id: first }, opened: false });
    }
  });
});

describe("why a player may not join", () => {
  it("is told in full, each cause with what would change it", () => {
    const room = openRoom(test, ansel, { capacity: 1 });
    test.ok({ do: "room.change", player: ansel, args: { visibility: "locked" } });
    test.run({ do: "room.operator-ban", room, player: brisa, reason: "too loud" });
    openRoom(test, brisa);
    const told = explainJoin(test.harbor.state, test.room(room), brisa);
    expect(told).toMatchObject({ canJoin: false, code: "already-in-room" });
    const codes = told?.against.map(({ code }) => code);
    expect(codes).toEqual(["already-in-room", "banned-from-room", "room-locked", "room-full"]);
    expect(told?.text[2]).toBe(
      `Room ${test.room(room).code} is locked. What would change it: its host, Ansel, opens it.`,
    );
  });

  it("is nothing when it may, and undefined for nobody", () => {
    const room = openRoom(test, ansel);
    expect(explainJoin(test.harbor.state, test.room(room), brisa)).toMatchObject({ canJoin: true, against: [] });
    expect(explainJoin(test.harbor.state, test.room(room), "p_000000000000")).toBeUndefined();
  });
});
