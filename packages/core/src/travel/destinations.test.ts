import { beforeEach, describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import {
  boardAll,
  bringUp,
  instanceOf,
  joinRoom,
  openRoom,
  runOf,
  startedRoom,
  travelSeen,
} from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainTravel } from "./explain.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let corin: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [string, string, string];
});

const address = { host: "192.0.2.7", port: 7700 };

const started = (kind: string, ...others: string[]) => startedRoom(test, kind, [ansel, brisa, ...others]);
const run = (room: string) => runOf(test, room);
const travel = (room: string) => travelSeen(test, room, brisa);
const arrive = (room: string, player: string) => test.ok({ do: "travel.arrive", player, args: { run: run(room) } });
const offer = (room: string, player = ansel) =>
  test.ok({ do: "travel.offer", player, args: { run: run(room), addresses: [address] } });
const probed = (room: string, reached: boolean | null) =>
  test.ok({
    do: "travel.world-probed",
    run: run(room),
    player: ansel,
    probed: [{ address, reached, detail: "was tried" }],
  });
const world = (room: string) => test.harbor.state.travels.worlds.get(room);
const shown = (room: string, player: string) => {
  const berth = world(room)?.berths.get(player);
  return { player, pass: berth?.pass ?? "none", run: run(room), level: "brine-gate" };
};
const takeIn = (room: string, player: string) =>
  test.ok({ do: "travel.board", player: ansel, args: { shown: shown(room, player) } });

describe("who looks on in the world of a member", () => {
  const looking = (room: string) => {
    test.ask(corin, { do: "room.watch", player: corin, args: { room } });
    return world(room)?.berths.get(corin);
  };
  const playing = () => {
    const room = started("hosted");
    offer(room);
    probed(room, true);
    takeIn(room, brisa);
    return room;
  };

  it("has a pass to it once the run plays, is let in as one who looks on, and arrives for nobody", () => {
    const room = started("hosted");
    expect(looking(room)).toBeUndefined();
    offer(room);
    probed(room, true);
    const from = test.journal.length;
    takeIn(room, brisa);
    expect(test.kinds(from)).toContain("travel.berth-added");
    expect(world(room)?.berths.get(corin)).toMatchObject({ spectator: true, state: "reserved" });
    const owed = test.appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "pass");
    expect(owed.at(-1)).toMatchObject({ to: corin, pass: { to: { player: ansel }, address } });
    const before = test.journal.length;
    expect(takeIn(room, corin)).toMatchObject({ player: { id: corin, name: "Corin" }, spectator: true });
    expect(test.kinds(before)).toEqual(["travel.boarded"]);
    expect(test.refusal({ do: "travel.board", player: ansel, args: { shown: shown(room, corin) } }).code).toBe(
      "pass-used",
    );
  });

  it("gets another pass where the first was not used in time, and none where it looks on no more", () => {
    const room = playing();
    const first = looking(room)?.pass;
    const again = { do: "travel.pass", player: corin, args: { run: run(room) } } as const;
    expect(test.refusal(again).code).toBe("pass-too-soon");
    test.pass(2_100);
    test.ok(again);
    expect(world(room)?.berths.get(corin)?.pass).not.toBe(first);
    test.ok({ do: "room.leave", player: corin, args: {} });
    expect(world(room)?.berths.has(corin)).toBe(false);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("becomes a player with a berth of a player", () => {
    const room = playing();
    looking(room);
    test.ok({ do: "room.join", player: corin, args: { room } });
    expect(world(room)?.berths.get(corin)?.spectator).toBeUndefined();
    takeIn(room, corin);
    expect(test.room(room).members.get(corin)?.aboard).toBe(true);
  });
});

describe("a relayed travel", () => {
  it("boards at once, and begins when all who count have said that they are there", () => {
    const room = started("relayed");
    expect(travel(room)).toMatchObject({ by: "relayed", step: "boarding", waitingFor: [ansel, brisa] });
    test.ok({ do: "travel.progress", player: ansel, args: { run: run(room), percent: 40 } });
    expect(travel(room)?.travellers[ansel]).toEqual({ id: ansel, percent: 40, arrived: false });
    arrive(room, ansel);
    expect(test.room(room).phase).toBe("travelling");
    arrive(room, brisa);
    expect(test.room(room)).toMatchObject({ phase: "playing", destination: { by: "relayed" } });
    expect([...test.room(room).members.values()].every(({ aboard }) => aboard)).toBe(true);
  });

  it("tells the level with its attributes, and a spot for each place, turned by chance", () => {
    const room = started("relayed");
    expect(travel(room)).toMatchObject({ level: "brine-gate", attributes: [{ name: "tide", value: "spring" }] });
    const spread = travel(room)?.spread;
    expect(spread).toMatchObject({ shape: "ring", places: 3, gap: 3 });
    expect(spread?.spots.map(({ place }) => place)).toEqual([0, 1, 2]);
    arrive(room, ansel);
    arrive(room, brisa);
    expect(test.views.get(brisa)?.room?.destination?.spread).toEqual(spread);
  });

  it("refuses progress that goes back, arrival without a call, a second arrival, and runs of before", () => {
    const room = started("relayed");
    const progress = (percent: number) =>
      ({ do: "travel.progress", player: ansel, args: { run: run(room), percent } }) as const;
    test.ok(progress(60));
    expect(test.refusal(progress(59))).toMatchObject({
      code: "progress-backwards",
      fields: [{ path: "args.percent" }],
    });
    test.ok(progress(60));
    const late = { do: "travel.arrive", player: ansel, args: { run: "u_000000000000" } } as const;
    expect(test.refusal(late).code).toBe("travel-over");
    arrive(room, ansel);
    expect(test.refusal({ ...late, args: { run: run(room) } }).code).toBe("arrived-already");
    expect(test.refusal({ ...late, player: corin }).code).toBe("not-in-room");
  });

  it("goes without who is away or in the background, and lets them follow", () => {
    const room = started("relayed", corin);
    test.ok({ do: "room.set-background", player: corin, args: { background: true } });
    expect(travel(room)?.waitingFor).toEqual([ansel, brisa]);
    const { text } = explainTravel(test.harbor.state, test.room(room), test.now);
    expect(text).toContain(
      "Corin is not waited for: has not told how far it has loaded; its game is in the background.",
    );
    arrive(room, ansel);
    arrive(room, brisa);
    expect(test.room(room).phase).toBe("playing");
    expect(test.views.get(brisa)?.room?.members[corin]?.aboard).toBeUndefined();
    arrive(room, corin);
    expect(test.views.get(brisa)?.room?.members[corin]?.aboard).toBe(true);
  });

  it("counts a game that has fallen silent as one in the background, until it is heard again", () => {
    const room = started("relayed", corin);
    test.ok({ do: "room.mark-silent", player: corin, silent: true });
    expect(travel(room)?.waitingFor).toEqual([ansel, brisa]);
    test.ok({ do: "room.mark-silent", player: corin, silent: false });
    expect(travel(room)?.waitingFor).toEqual([ansel, brisa, corin]);
  });

  it("puts who is late out of the room, where the room kind drops stragglers", () => {
    const room = started("voting", corin);
    arrive(room, ansel);
    arrive(room, brisa);
    const from = test.journal.length;
    test.pass(30_000);
    expect(test.room(room)).toMatchObject({ phase: "playing" });
    expect([...test.room(room).members.keys()]).toEqual([ansel, brisa]);
    const told = test.journal.slice(from).find(({ event }) => event.kind === "room.departed")?.event;
    expect(told).toMatchObject({ player: corin, reason: "late" });
    expect(test.views.get(corin)?.lobby?.id).toBe("quayside");
  });
});

describe("a travel to the world of a member", () => {
  it("asks the host, tells its addresses once they are probed, and each gets a pass of its own", () => {
    const room = started("hosted", corin);
    expect(travel(room)).toMatchObject({ by: "player-hosted", step: "preparing", player: ansel });
    expect(travel(room)?.address).toBeUndefined();
    offer(room);
    expect(travel(room)?.address).toBeUndefined();
    const from = test.appliedEvents.length;
    probed(room, true);
    expect(travel(room)).toMatchObject({ step: "boarding", address, addresses: [address], waitingFor: [brisa, corin] });
    const passes = test.appliedEvents
      .slice(from)
      .flatMap(({ pushes }) => pushes.filter((push) => push.scope === "pass"));
    expect(passes.map(({ to }) => to)).toEqual([brisa, corin]);
    takeIn(room, brisa);
    const used = test.refusal({ do: "travel.board", player: ansel, args: { shown: shown(room, brisa) } });
    expect(used.code).toBe("pass-used");
    takeIn(room, corin);
    expect(test.room(room)).toMatchObject({ phase: "playing", destination: { by: "player-hosted", player: ansel } });
  });

  it("takes relaying as the way out when nothing answers, and tells why", () => {
    const room = started("hosted");
    offer(room);
    probed(room, false);
    expect(travel(room)).toMatchObject({
      by: "relayed",
      step: "boarding",
      tried: [{ by: "player-hosted", why: "Nothing answers: 192.0.2.7:7700 was tried." }],
    });
    expect(travel(room)?.player).toBeUndefined();
  });

  it("takes it too when a member cannot reach the world, when the host declines, and when it takes too long", () => {
    const one = started("hosted");
    offer(one);
    probed(one, null);
    test.ok({ do: "travel.trouble", player: brisa, args: { run: run(one), reason: "no answer" } });
    expect(travel(one)).toMatchObject({ by: "relayed", tried: [{ why: "Brisa cannot reach the world: no answer" }] });
    expect(world(one)).toBeUndefined();
    test.ok({ do: "travel.operator-abort", room: one, reason: undefined });
    test.ok({ do: "room.start", player: ansel, args: {} });
    test.ok({ do: "travel.decline", player: ansel, args: { run: run(one), reason: "too slow" } });
    expect(travel(one)).toMatchObject({ by: "relayed" });
    test.ok({ do: "travel.abort", player: ansel, args: { run: run(one) } });
    test.ok({ do: "room.start", player: ansel, args: {} });
    test.pass(40_000);
    expect(travel(one)).toMatchObject({ by: "relayed", tried: [{ why: expect.stringContaining("did not offer it") }] });
  });

  it("refuses who is not asked, who does not run it, and passes that are no good here", () => {
    const room = started("hosted");
    const offers = { do: "travel.offer", player: brisa, args: { run: run(room), addresses: [address] } } as const;
    expect(test.refusal(offers).code).toBe("destination-not-requested");
    expect(test.refusal({ do: "travel.arrive", player: brisa, args: { run: run(room) } }).code).toBe("wrong-phase");
    offer(room);
    probed(room, true);
    expect(test.refusal({ do: "travel.arrive", player: brisa, args: { run: run(room) } }).code).toBe(
      "arrival-not-yours",
    );
    const board = (change: object) =>
      test.refusal({ do: "travel.board", player: ansel, args: { shown: { ...shown(room, brisa), ...change } } }).code;
    expect(board({ pass: "b_000000000000" })).toBe("pass-replaced");
    expect(board({ run: "u_000000000000" })).toBe("pass-expired");
    expect(board({ run: "u_000000000000", level: "gull-flats" })).toBe("pass-other-level");
    const strange = { do: "travel.board", player: brisa, args: { shown: shown(room, brisa) } } as const;
    expect(test.refusal(strange).code).toBe("destination-not-requested");
  });

  it("gives a late joining, and who lost its way in, a pass of its own", () => {
    const room = started("hosted");
    offer(room);
    probed(room, true);
    takeIn(room, brisa);
    joinRoom(test, room, corin);
    // The world is open already, so its pass lasts as long as anybody has from the address to the arrival.
    const late = test.harbor.state.travels.worlds.get(room)?.berths.get(corin);
    expect(late?.expiresAtMs).toBe(test.now + test.harbor.rules.travel.boardMs);
    takeIn(room, corin);
    expect(test.views.get(brisa)?.room?.members[corin]?.aboard).toBe(true);
    const former = shown(room, brisa);
    test.ok({ do: "travel.pass", player: brisa, args: { run: run(room) } });
    expect(shown(room, brisa).pass).not.toBe(former.pass);
    expect(test.refusal({ do: "travel.pass", player: brisa, args: { run: run(room) } }).code).toBe("pass-too-soon");
    test.pass(2_000);
    test.ok({ do: "travel.pass", player: brisa, args: { run: run(room) } });
    takeIn(room, brisa);
  });

  it("is over with the member who ran it: the run is void", () => {
    const room = started("hosted", corin);
    offer(room);
    probed(room, true);
    takeIn(room, brisa);
    takeIn(room, corin);
    test.ok({ do: "room.leave", player: ansel, args: {} });
    expect(test.room(room)).toMatchObject({
      phase: "gathering",
      result: { void: true },
      setback: { code: "instance-lost" },
    });
  });
});

describe("a travel that is given up by choice", () => {
  it("brings everybody back to gathering with readiness as it was", () => {
    const room = started("crews");
    expect(test.refusal({ do: "travel.abort", player: brisa, args: { run: run(room) } }).code).toBe("not-host");
    test.ok({ do: "travel.abort", player: ansel, args: { run: run(room), reason: "wrong level" } });
    expect(test.room(room)).toMatchObject({ phase: "gathering", setback: { code: "travel-aborted" } });
    expect([...test.room(room).members.values()].map(({ ready }) => ready)).toEqual([true, true]);
    expect(test.views.get(brisa)?.room?.missing).toEqual([]);
    test.ok({ do: "room.start", player: ansel, args: {} });
  });

  it("does not set off again by itself where rooms start by themselves", () => {
    const room = openRoom(test, ansel, { kind: "eager", capacity: 2 });
    joinRoom(test, room, brisa);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    for (const player of [ansel, brisa]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.pass(3_000);
    test.ok({ do: "travel.abort", player: ansel, args: { run: run(room) } });
    expect([...test.room(room).members.values()].map(({ ready }) => ready)).toEqual([false, true]);
    test.pass(60_000);
    expect(test.room(room).phase).toBe("gathering");
  });

  it("brings a room back to its results when it came from there", () => {
    const room = started("anywhere");
    bringUp(test, room);
    boardAll(test, room);
    const instance = instanceOf(test, room);
    test.ok({ do: "instance.report", instance, run: run(room), standings: [], note: undefined });
    expect(test.room(room)).toMatchObject({ phase: "results", level: { id: "far-sound" } });
    test.ok({ do: "room.again", player: ansel, args: {} });
    test.ok({ do: "travel.abort", player: ansel, args: { run: run(room) } });
    expect(test.room(room)).toMatchObject({ phase: "results", result: { level: "brine-gate" } });
    test.pass(4_000);
    expect(test.room(room).phase).toBe("gathering");
  });
});
