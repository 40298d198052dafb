import { beforeEach, describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainRoom } from "./start/explain.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
beforeEach(() => {
  test = new TestHarbor();
  ansel = test.connect("Ansel");
  brisa = test.connect("Brisa");
});

const open = (player: string, capacity = 2) =>
  (test.ask(player, { do: "room.open", player, args: { capacity } }).reply as { room: { id: string; code: string } })
    .room;
const join = (player: string, room: string) => test.ask(player, { do: "room.join", player, args: { room } });
const ready = (player: string, value = true) => test.ok({ do: "room.ready", player, args: { ready: value } });

describe("opening and joining", () => {
  it("makes who opens the host, at place 0, and takes it out of the lobby", () => {
    const { id, code } = open(ansel);
    expect(test.room(id)).toMatchObject({ host: ansel, capacity: 2, phase: "gathering", name: "Ansel's room" });
    expect(test.room(id).members.get(ansel)?.place).toBe(0);
    expect(test.harbor.state.rooms.byCode.get(code)).toBe(id);
    expect([...(test.harbor.state.lobbies.byId.get("quayside")?.standing.keys() ?? [])]).toEqual([brisa]);
  });

  it("gives the newcomer the complete state and the others one update", () => {
    const { id } = open(ansel);
    const { reply, appliedEvents } = join(brisa, id);
    expect(Object.keys((reply as { room: { members: object } }).room.members)).toEqual([ansel, brisa]);
    const update = appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "room");
    expect(update).toHaveLength(1);
    expect(update[0]).toMatchObject({ to: [ansel], update: { kind: "member-joined", player: brisa } });
  });

  it("gives the lowest free place, and keeps places while members stay", () => {
    const { id } = open(ansel, 3);
    const corin = test.connect("Corin");
    const dovie = test.connect("Dovie");
    join(brisa, id);
    join(corin, id);
    test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    join(dovie, id);
    expect([...test.room(id).members.values()].map(({ name, place }) => [name, place])).toEqual([
      ["Ansel", 0],
      ["Corin", 2],
      ["Dovie", 1],
    ]);
  });

  it("refuses each cause by a code of its own", () => {
    const { id, code } = open(ansel);
    const corin = test.connect("Corin");
    expect(test.refusal({ do: "room.join", player: brisa, args: { room: "r_000000000000" } }).code).toBe(
      "room-unknown",
    );
    expect(test.refusal({ do: "room.join", player: brisa, args: { code: "CCCCC" } }).code).toBe("room-code-unknown");
    expect(test.refusal({ do: "room.open", player: ansel, args: {} }).code).toBe("already-in-room");
    expect(test.refusal({ do: "room.open", player: brisa, args: { capacity: 7 } }).code).toBe("capacity-out-of-range");
    expect(test.refusal({ do: "room.open", player: brisa, args: { kind: "duels" } })).toMatchObject({
      code: "room-kind-unknown",
      accepted: [...testRules().roomKinds.keys()],
    });
    join(brisa, id);
    expect(test.refusal({ do: "room.join", player: corin, args: { code } }).code).toBe("room-full");
    expect(test.refusal({ do: "room.ready", player: corin, args: { ready: true } }).code).toBe("not-in-room");
    expect(test.refusal({ do: "room.leave", player: corin, args: {} }).code).toBe("not-in-room");
  });

  it("refuses a level nobody knows and one that the room kind does not have", () => {
    open(ansel);
    expect(test.refusal({ do: "room.pick-level", player: ansel, args: { level: "moon" } })).toMatchObject({
      code: "level-unknown",
      accepted: ["brine-gate", "gull-flats"],
    });
    expect(test.refusal({ do: "room.pick-level", player: ansel, args: { level: "old-slip" } }).code).toBe(
      "level-not-allowed",
    );
  });
});

describe("start", () => {
  it("is refused with every reason, the host's alone, and works once", () => {
    const { id } = open(ansel);
    const asked = { do: "room.start", player: ansel, args: {} } as const;
    expect(test.refusal(asked).missing?.map((row) => row.text)).toEqual([
      "the host has not picked a level",
      "needs 1 more player",
      "Ansel is not ready",
    ]);
    join(brisa, id);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    ready(ansel);
    expect(test.refusal(asked)).toMatchObject({
      code: "start-not-possible",
      detail: "Cannot start: Brisa is not ready.",
    });
    ready(brisa);
    expect(test.refusal({ ...asked, player: brisa }).code).toBe("not-host");
    expect(test.room(id).phase).toBe("gathering");
    test.ok(asked);
    expect(test.refusal(asked).code).toBe("wrong-phase");
    expect(test.kinds().filter((kind) => kind === "room.started")).toHaveLength(1);
  });

  it("waits for members who are away", () => {
    const { id } = open(ansel);
    join(brisa, id);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    ready(ansel);
    ready(brisa);
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    expect(test.refusal({ do: "room.start", player: ansel, args: {} }).missing).toEqual([
      { code: "away", player: brisa, text: "Brisa is away" },
    ]);
  });

  it("is not possible with more members than the level suits", () => {
    const { id } = open(ansel, 4);
    const others = [brisa, test.connect("Corin"), test.connect("Dovie")];
    for (const player of others) join(player, id);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "gull-flats" } });
    for (const player of [ansel, ...others]) ready(player);
    expect(test.refusal({ do: "room.start", player: ansel, args: {} }).detail).toBe(
      "Cannot start: has 1 player too many for gull-flats.",
    );
  });

  it("lets nobody in afterwards", () => {
    const { id } = open(ansel, 3);
    join(brisa, id);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    ready(ansel);
    ready(brisa);
    test.ok({ do: "room.start", player: ansel, args: {} });
    const corin = test.connect("Corin");
    expect(test.refusal({ do: "room.join", player: corin, args: { room: id } }).code).toBe("room-started");
    expect(explainRoom(test.harbor.state, test.room(id), test.now)).toMatchObject({
      canStart: false,
      phase: "travelling",
      missing: [],
    });
  });
});

describe("leaving", () => {
  it("hands the powers over in the same update", () => {
    const { id } = open(ansel);
    join(brisa, id);
    const outcome = test.ask(ansel, { do: "room.leave", player: ansel, args: {} });
    const left = outcome.appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "room");
    expect(left).toHaveLength(1);
    expect(left[0]).toMatchObject({
      to: [brisa],
      update: { kind: "member-left", player: ansel, reason: "left", host: brisa },
    });
    expect(test.room(id).host).toBe(brisa);
  });

  it("hands over to somebody who is here before somebody who is away", () => {
    const { id } = open(ansel, 3);
    const corin = test.connect("Corin");
    join(brisa, id);
    join(corin, id);
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    test.run({ do: "player.leave", player: ansel });
    expect(test.room(id).host).toBe(corin);
  });

  it("closes the room with the last one", () => {
    const { id, code } = open(ansel);
    test.ask(ansel, { do: "room.leave", player: ansel, args: {} });
    expect(test.harbor.state.rooms.byId.has(id)).toBe(false);
    expect(test.harbor.state.rooms.byCode.has(code)).toBe(false);
  });

  it("keeps the place of a lost member for the grace, and gives it up afterwards", () => {
    const { id } = open(ansel);
    join(brisa, id);
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    test.pass(9_999);
    expect(test.room(id).members.get(brisa)?.presence).toBe("away");
    test.pass(1);
    expect(test.room(id).members.has(brisa)).toBe(false);
    expect(test.harbor.state.players.byId.has(brisa)).toBe(false);
    expect(test.refusal({ do: "player.resume", player: brisa, connection: 2 }).code).toBe("player-unknown");
  });

  it("is undone by coming back in time, with place and readiness as they were", () => {
    const { id } = open(ansel);
    join(brisa, id);
    ready(brisa);
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    test.pass(5_000);
    const { reply } = test.resume(brisa);
    expect((reply as { room: { members: Record<string, unknown> } }).room.members[brisa]).toMatchObject({
      ready: true,
      presence: "here",
      place: 1,
    });
    test.pass(60_000);
    expect(test.room(id).members.has(brisa)).toBe(true);
  });

  it("does not count the loss of a connection that another one has taken over", () => {
    const { id } = open(ansel);
    test.ask(ansel, { do: "player.resume", player: ansel, connection: 2 });
    test.run({ do: "player.lose", player: ansel, connection: 1 });
    expect(test.room(id).members.get(ansel)?.presence).toBe("here");
  });
});
