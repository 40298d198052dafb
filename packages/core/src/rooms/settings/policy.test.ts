import { beforeEach, describe, expect, it } from "vitest";
import { acknowledge, boardAll, instanceOf, joinRoom, openRoom, playRoom, startRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let corin: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [string, string, string];
});

const lose = (player: string) => test.run({ do: "player.lose", player, connection: 1 });
const leave = (player: string) => test.ask(player, { do: "room.leave", player, args: {} });
const measure = (player: string, latencyMs: number) =>
  test.ok({ do: "player.measure", player, latency: { latencyMs, jitterMs: 1 } });
const standings = () => [ansel, brisa].map((player, n) => ({ player, score: n }));
const setResult = (player: string) => ({ do: "room.set-result", player, args: { standings: standings() } }) as const;

describe("the host", () => {
  it("keeps the powers for its own grace, then they pass to who is here with the lowest latency", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa, corin);
    measure(brisa, 80);
    measure(corin, 30);
    lose(ansel);
    test.pass(1_999);
    expect(test.room(room).host).toBe(ansel);
    test.pass(1);
    expect(test.room(room).host).toBe(corin);
    expect(test.room(room).members.get(ansel)?.presence).toBe("away");
    test.resume(ansel);
    expect(test.room(room).host).toBe(corin);
  });

  it("that nobody could follow is followed by the first who is back", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    lose(brisa);
    lose(ansel);
    test.pass(3_000);
    expect(test.room(room).host).toBe(ansel);
    test.resume(brisa);
    expect(test.room(room).host).toBe(brisa);
  });

  it("takes the room with it where the kind says so", () => {
    const room = openRoom(test, ansel, { kind: "host-bound" });
    joinRoom(test, room, brisa, corin);
    leave(ansel);
    expect(test.harbor.state.rooms.byId.has(room)).toBe(false);
    expect(test.views.get(brisa)?.lobby?.id).toBe("quayside");
    expect(test.harbor.state.players.byId.get(brisa)?.room).toBeNull();
  });
});

describe("readiness", () => {
  it("of those who are here is enough where the kind says so, and who is away stays behind", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa, corin);
    lose(corin);
    startRoom(test, room);
    const travel = test.harbor.state.travels.byRun.get(test.room(room).run ?? "");
    expect([...(travel?.travellers.keys() ?? [])]).toEqual([ansel, brisa]);
  });

  it("is nobody's business where the kind says so; anybody may start where it says that", () => {
    const bound = openRoom(test, ansel, { kind: "host-bound" });
    joinRoom(test, bound, brisa);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    expect(test.room(bound).members.get(brisa)?.ready).toBe(false);
    expect(test.refusal({ do: "room.start", player: brisa, args: {} }).code).toBe("not-host");
    test.ok({ do: "room.start", player: ansel, args: {} });

    const house = openRoom(test, corin, { kind: "open-house" });
    const dovie = test.connect("Dovie");
    joinRoom(test, house, dovie);
    test.ok({ do: "room.pick-level", player: corin, args: { level: "brine-gate" } });
    for (const player of [corin, dovie]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: dovie, args: {} });
    expect(test.room(house).phase).toBe("travelling");
  });

  it.each([
    ["another level", { level: "gull-flats" }, false],
    ["other settings", { settings: { weather: "fog" } }, false],
    ["another name", { name: "Low water" }, true],
    ["the same level again", { level: "brine-gate" }, true],
  ])("after %s stands as the kind says", (_what, args, stands) => {
    const room = openRoom(test, ansel, { kind: "sided" });
    joinRoom(test, room, brisa);
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    test.ok({ do: "room.ready", player: brisa, args: { ready: true } });
    test.ok({ do: "room.change", player: ansel, args });
    expect(test.room(room).members.get(brisa)?.ready).toBe(stands);
    expect(test.views.get(ansel)?.room?.members[brisa]?.ready).toBe(stands);
  });
});

describe("settings", () => {
  it("are patched, null takes one away, and a stale patch gets the present ones", () => {
    const room = openRoom(test, ansel);
    test.ok({
      do: "room.change",
      player: ansel,
      args: { settings: { weather: "fog", rounds: 3 }, level: "brine-gate" },
    });
    const { settingsRevision } = test.room(room);
    test.ok({ do: "room.change", player: ansel, args: { settings: { weather: null }, basedOn: settingsRevision } });
    expect(test.room(room).settings).toEqual({ rounds: 3 });
    const stale = test.refusal({ do: "room.pick-level", player: ansel, args: { level: "gull-flats", basedOn: 0 } });
    expect(stale).toMatchObject({
      code: "settings-stale",
      current: { settingsRevision: settingsRevision + 1, settings: { rounds: 3 }, level: "brine-gate" },
    });
    const many = Object.fromEntries(Array.from({ length: 32 }, (_, n) => [`key${n}`, n]));
    expect(test.refusal({ do: "room.change", player: ansel, args: { settings: many } }).code).toBe("request-invalid");
  });
});

describe("a room that nobody is in", () => {
  it("waits for as long as its kind says, and makes the first who comes its host", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    leave(ansel);
    expect(test.room(room)).toMatchObject({ host: null, phase: "gathering" });
    test.pass(2_999);
    joinRoom(test, room, brisa);
    expect(test.room(room).host).toBe(brisa);
    test.pass(60_000);
    leave(brisa);
    test.pass(3_000);
    expect(test.harbor.state.rooms.byId.has(room)).toBe(false);
  });

  it("ends its run and lets its instance go", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    playRoom(test, room);
    const instance = test.instance(instanceOf(test, room));
    leave(ansel);
    leave(brisa);
    expect(test.room(room)).toMatchObject({ phase: "gathering", run: null, setback: { code: "everybody-left" } });
    expect(instance.state).toBe("draining");
  });

  it("is closed by an operator like any other", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    leave(ansel);
    test.ok({ do: "room.dissolve", room, reason: undefined, by: "operator" });
    expect(test.harbor.state.rooms.byId.has(room)).toBe(false);
  });
});

describe("the result", () => {
  it("is set by the host where the kind says so, once, ranked with ties, and the instance is told", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    playRoom(test, room);
    const instance = instanceOf(test, room);
    const run = test.room(room).run ?? "";
    const report = { do: "instance.report", instance, run, standings: standings(), note: undefined } as const;
    expect(test.refusal(report).code).toBe("result-not-yours");
    expect(test.refusal(setResult(brisa)).code).toBe("not-host");
    const scores = [ansel, brisa].map((player) => ({ player, score: 5 }));
    test.ok({ do: "room.set-result", player: ansel, args: { standings: scores, note: "a draw" } });
    expect(test.room(room)).toMatchObject({ phase: "results", result: { run, note: "a draw" } });
    expect(test.room(room).result?.standings.map(({ rank }) => rank)).toEqual([1, 1]);
    expect(test.instance(instance).instructions.at(-1)).toMatchObject({ instruction: "end-match", run });
    expect(test.refusal(setResult(ansel)).code).toBe("result-known");
    expect(test.refusal(report).code).toBe("result-known");
  });

  it("names members, and each once", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    expect(test.refusal(setResult(ansel)).code).toBe("wrong-phase");
    playRoom(test, room);
    const twice = [ansel, ansel].map((player) => ({ player, score: 1 }));
    expect(test.refusal({ do: "room.set-result", player: ansel, args: { standings: twice } }).code).toBe(
      "request-invalid",
    );
    const stranger = [{ player: corin, score: 1 }];
    expect(test.refusal({ do: "room.set-result", player: ansel, args: { standings: stranger } })).toMatchObject({
      fields: [{ path: "standings.0.player" }],
    });
  });

  it("is an operator's where the kind says so", () => {
    const room = openRoom(test, ansel, { kind: "host-bound" });
    joinRoom(test, room, brisa);
    playRoom(test, room);
    expect(test.refusal(setResult(ansel)).code).toBe("result-not-yours");
    test.ok({ do: "room.operator-set-result", room, standings: standings() });
    expect(test.room(room)).toMatchObject({ phase: "gathering", run: null });
  });

  it("is shown for a while; then the room gathers, or starts again on the same instance at once", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    playRoom(test, room);
    const instance = instanceOf(test, room);
    test.ok(setResult(ansel));
    expect(test.refusal({ do: "room.again", player: brisa, args: {} }).code).toBe("not-host");
    test.ok({ do: "room.again", player: ansel, args: {} });
    expect(instanceOf(test, room)).toBe(instance);
    acknowledge(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
    test.ok(setResult(ansel));
    expect(test.views.get(brisa)?.room?.gathersAtMs).toBe(test.now + 4_000);
    test.pass(4_000);
    expect(test.room(room)).toMatchObject({ phase: "gathering", gathersAtMs: null });
    expect(test.refusal({ do: "room.again", player: ansel, args: {} }).code).toBe("wrong-phase");
  });

  it("does not start again with too few, and is put away by the host", () => {
    const room = openRoom(test, ansel, { kind: "open-house" });
    joinRoom(test, room, brisa);
    playRoom(test, room);
    test.ok(setResult(ansel));
    leave(brisa);
    expect(test.refusal({ do: "room.again", player: ansel, args: {} })).toMatchObject({
      code: "start-not-possible",
      missing: [{ code: "players", needed: 1 }],
    });
    test.ok({ do: "room.gather", player: ansel, args: {} });
    expect(test.room(room).phase).toBe("gathering");
  });
});

describe("bans", () => {
  it("are set by an operator for somebody who is not in the room, lifted by the host, and shown", () => {
    const room = openRoom(test, ansel);
    test.ok({ do: "room.operator-ban", room, player: brisa, reason: "cheating" });
    expect(test.views.get(ansel)?.room?.banned).toEqual([brisa]);
    expect(test.refusal({ do: "room.join", player: brisa, args: { room } }).code).toBe("banned-from-room");
    test.ok({ do: "room.unban", player: ansel, args: { player: brisa } });
    joinRoom(test, room, brisa);
    expect(test.refusal({ do: "room.operator-unban", room, player: brisa }).code).toBe("member-unknown");
  });
});
