import { describe, expect, it } from "vitest";
import { invariantViolations } from "../../harbor/invariants.ts";
import { readSnapshot } from "../../harbor/snapshot.ts";
import { acknowledge, boardAll, bringUp, instanceOf, openRoom, playedRoom, runOf } from "../../testing/scenes.ts";
import { told } from "../../testing/searching.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

function gathered(kind = "open-house") {
  const test = new TestHarbor();
  const [ansel = "", brisa = "", corin = ""] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
  const room = openRoom(test, ansel, { kind, capacity: 2 });
  test.ask(brisa, { do: "room.join", player: brisa, args: { room } });
  return { test, room, ansel, brisa, corin };
}

const watch = (test: TestHarbor, player: string, room: string, more: object = {}) =>
  test.ask(player, { do: "room.watch", player, args: { room, ...more } });
const codeOf = (test: TestHarbor, room: string) => test.room(room).code;

describe("a spectator", () => {
  it("looks on in a full room, is told what its members are, and counts as none of them", () => {
    const { test, room, ansel, corin } = gathered();
    expect(watch(test, corin, room).refused).toBeUndefined();
    expect(test.views.get(corin)?.room?.spectators).toEqual({
      max: 2,
      delayMs: 3_000,
      players: { [corin]: { id: corin, name: "Corin", presence: "here" } },
    });
    test.ok({ do: "room.ready", player: ansel, args: { ready: true } });
    expect(test.views.get(corin)?.room?.members[ansel]?.ready).toBe(true);
    expect(test.views.get(ansel)?.room).toEqual(test.views.get(corin)?.room);
    expect(test.room(room).members.size).toBe(2);
    test.pass(1_000);
    const { lobbies } = test.harbor.state;
    expect(lobbies.byId.get("quayside")).toMatchObject({ inRooms: 2 });
    expect(invariantViolations(test.harbor.state)).toEqual([]);
    const refused = test.refusal({ do: "room.ready", player: corin, args: { ready: true } });
    expect(refused).toMatchObject({ code: "only-watching" });
  });

  it("leaves, is kicked and kept out, and is let go of when the room closes; each time it is in the lobby again", () => {
    const { test, room, ansel, brisa, corin } = gathered();
    watch(test, corin, room);
    const { lobby } = test.ok({ do: "room.leave", player: corin, args: {} });
    expect(lobby.id).toBe("quayside");
    watch(test, corin, room);
    for (const player of [ansel, brisa]) test.ok({ do: "room.leave", player, args: {} });
    // This kind of room stays a while without anybody in it.
    test.pass(3_001);
    expect(told(test, corin).at(-1)).toMatchObject({ kind: "out-of-room", room, cause: "closed" });
    const other = openRoom(test, ansel, { kind: "open-house" });
    watch(test, corin, other);
    test.ok({ do: "room.kick", player: ansel, args: { player: corin, reason: "shouting", ban: true } });
    expect(told(test, corin).at(-1)).toMatchObject({ kind: "out-of-room", cause: "kicked", why: "shouting" });
    expect(watch(test, corin, other).refused?.code).toBe("banned-from-room");
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("becomes a member once there is a place, and a member gives its place up to look on", () => {
    const { test, room, ansel, brisa, corin } = gathered();
    watch(test, corin, room);
    const join = (player: string) => test.ask(player, { do: "room.join", player, args: { room } }).refused?.code;
    expect(join(corin)).toBe("room-full");
    watch(test, brisa, room);
    expect(join(corin)).toBeUndefined();
    expect([...test.room(room).members.keys()]).toEqual([ansel, corin]);
    expect([...test.room(room).spectators.keys()]).toEqual([brisa]);
    expect(test.views.get(brisa)?.room).toEqual(test.views.get(ansel)?.room);
    test.ok({ do: "room.leave", player: corin, args: {} });
    expect(watch(test, ansel, room).refused?.detail).toMatch(/^You are the only one in room/);
  });

  it("survives a lost connection and a restart, and is gone when it does not come back", () => {
    const { test, room, ansel, corin } = gathered();
    watch(test, corin, room);
    test.run({ do: "player.lose", player: corin, connection: 1 });
    expect(test.views.get(ansel)?.room?.spectators?.players[corin]).toMatchObject({ presence: "away" });
    expect(test.resume(corin).reply).toMatchObject({ room: { id: room } });
    test.run({ do: "harbor.recover" });
    expect(readSnapshot(test.harbor.snapshot())?.rooms.byId.get(room)?.spectators).toEqual(test.room(room).spectators);
    test.resume(ansel);
    test.pass(60_000);
    expect(test.room(room).spectators.size).toBe(0);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is refused where there are none, where there are enough, where the room is locked, and by id where the code is needed", () => {
    const { test, room, ansel, corin } = gathered();
    const others = ["Dovie", "Edda", "Fenn"].map((name) => test.connect(name)) as [string, string, string];
    expect([corin, others[0], others[1]].map((one) => watch(test, one, room).refused?.code)).toEqual([
      undefined,
      undefined,
      "spectators-full",
    ]);
    const plain = openRoom(test, others[1], { kind: "crews" });
    expect(watch(test, others[2], plain).refused?.code).toBe("spectators-off");
    test.ok({ do: "room.leave", player: corin, args: {} });
    test.ok({ do: "room.change", player: ansel, args: { visibility: "locked" } });
    expect(watch(test, corin, room).refused?.code).toBe("room-locked");
    test.ok({ do: "room.change", player: ansel, args: { visibility: "code-only" } });
    expect(watch(test, corin, room).refused?.code).toBe("room-unknown");
    expect(test.run({ do: "room.watch", player: corin, args: { code: codeOf(test, room) } }).refused).toBeUndefined();
  });

  it("goes from room to room when it says so, and out of a search", () => {
    const { test, room, corin } = gathered();
    const dovie = test.connect("Dovie");
    const other = openRoom(test, dovie, { kind: "sided" });
    test.ok({ do: "queue.join", player: corin, args: { queue: "pairs", attributes: { skill: 1 } } });
    watch(test, corin, room);
    expect(test.harbor.state.queues.tickets.size).toBe(0);
    expect(watch(test, corin, other).refused?.code).toBe("already-in-room");
    expect(watch(test, corin, other, { move: true }).refused).toBeUndefined();
    expect([room, other].map((id) => test.room(id).spectators.size)).toEqual([0, 1]);
  });
});

describe("a spectator of a run on an instance", () => {
  function watched() {
    const test = new TestHarbor();
    const players = ["Ansel", "Brisa"].map((name) => test.connect(name));
    const corin = test.connect("Corin");
    const room = playedRoom(test, "open-house", players);
    acknowledge(test, room);
    const instance = instanceOf(test, room);
    return { test, room, corin, instance, players, run: runOf(test, room) };
  }
  const passOf = (test: TestHarbor, player: string) =>
    test.appliedEvents
      .flatMap(({ pushes }) => pushes)
      .flatMap((push) => (push.scope === "pass" && push.to === player ? [push.pass] : []))
      .at(-1);

  it("has a pass of its own, of which the instance is told with the delay", () => {
    const { test, room, corin, instance, run } = watched();
    watch(test, corin, room);
    expect(test.instance(instance).instructions.at(-1)).toMatchObject({
      instruction: "expect-spectator",
      run,
      player: { id: corin, name: "Corin", place: 0 },
      delayMs: 3_000,
    });
    const pass = passOf(test, corin)?.pass ?? "";
    const boarded = test.ok({ do: "instance.board", instance, player: corin, pass, run });
    expect(boarded).toMatchObject({ spectator: true, player: { id: corin } });
    expect(test.room(room).members.size).toBe(2);
    // It has no part in the result.
    const standings = [{ player: corin, score: 1 }];
    test.ok({ do: "room.leave", player: corin, args: {} });
    expect(test.instance(instance).instructions.at(-1)).toMatchObject({ instruction: "release-player", player: corin });
    expect(test.run({ do: "instance.report", instance, run, standings }).refused?.code).toBeDefined();
  });

  it("has it as soon as the run begins, when it looked on before, and a new one when it came too late for that", () => {
    const test = new TestHarbor();
    const players = ["Ansel", "Brisa"].map((name) => test.connect(name)) as [string, string];
    const corin = test.connect("Corin");
    const room = openRoom(test, players[0], { kind: "open-house" });
    test.ask(players[1], { do: "room.join", player: players[1], args: { room } });
    watch(test, corin, room);
    test.ok({ do: "room.pick-level", player: players[0], args: { level: "brine-gate" } });
    for (const player of players) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: players[0], args: {} });
    bringUp(test, room);
    expect(passOf(test, corin)).toBeUndefined();
    boardAll(test, room);
    const first = passOf(test, corin);
    expect(first).toMatchObject({ run: runOf(test, room) });
    acknowledge(test, room);
    test.pass(120_000);
    test.ok({ do: "travel.pass", player: corin, args: { run: runOf(test, room) } });
    expect(passOf(test, corin)?.pass).not.toBe(first?.pass);
    expect(test.resume(corin).reply).toMatchObject({ pass: { run: runOf(test, room) } });
  });
});
