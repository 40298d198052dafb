import { describe, expect, it } from "vitest";
import { Harbor } from "../../harbor/harbor.ts";
import { testRules } from "../../testing/rules.ts";
import { boardAll, bringUp, instanceOf, playRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

type Wish = {
  readonly lobby?: string;
  readonly level?: string;
  readonly kind?: string;
  readonly code?: string;
  readonly capacity?: number;
  readonly build?: string;
};

const ask = (test: TestHarbor, wish: Wish = {}, key?: string, fingerprint = "one") =>
  test.run({
    do: "room.operator-open",
    wish: { lobby: "quayside", kind: "crews", keepMs: 60_000, ...wish },
    request: key === undefined ? undefined : { key, fingerprint },
  });

function opened(test: TestHarbor, wish: Wish = {}): string {
  const { reply, refused } = ask(test, wish);
  if (refused) throw new Error(refused.detail);
  return (reply as { room: { id: string } }).room.id;
}

const join = (test: TestHarbor, player: string, room: string, more: object = {}) =>
  test.ask(player, { do: "room.join", player, args: { room, ...more } });

const reserve = (test: TestHarbor, room: string, place: object, basedOn?: number) =>
  test.run({ do: "room.operator-reserve", room, basedOn, place: { forMs: 10_000, ...place } as never });

describe("a room that an operator has opened", () => {
  it("has nobody in it, is listed, and belongs to the first who joins", () => {
    const test = new TestHarbor();
    const room = opened(test);
    expect(test.room(room)).toMatchObject({ host: null, build: "", capacity: 4 });
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    expect(join(test, ansel, room).refused).toBeUndefined();
    expect(test.room(room)).toMatchObject({ host: ansel, build: test.harbor.state.players.byId.get(ansel)?.build });
    expect(join(test, brisa, room).refused).toBeUndefined();
    expect(test.views.get(ansel)?.room?.build).toBe(test.room(room).build);
  });

  it("is found by quick-join like any other", () => {
    const test = new TestHarbor();
    const room = opened(test);
    const ansel = test.connect("Ansel");
    test.ask(ansel, { do: "room.quick-join", player: ansel, args: {} });
    expect(test.harbor.state.players.byId.get(ansel)?.room).toBe(room);
  });

  it("closes when nobody comes in its time, and lives by its kind once somebody has", () => {
    const test = new TestHarbor();
    const [unused, used] = [opened(test), opened(test)];
    const ansel = test.connect("Ansel");
    join(test, ansel, used);
    test.pass(61_000);
    expect(test.harbor.state.rooms.byId.has(unused)).toBe(false);
    expect(test.harbor.state.rooms.byId.has(used)).toBe(true);
    test.ok({ do: "room.leave", player: ansel, args: {} });
    expect(test.harbor.state.rooms.byId.has(used)).toBe(false);
  });

  it("is opened once for one request, also after a restart, and for no other with its key", () => {
    const test = new TestHarbor();
    const first = ask(test, {}, "final");
    const again = ask(test, {}, "final");
    const id = (outcome: typeof first) => (outcome.reply as { room: { id: string } }).room.id;
    expect(id(again)).toBe(id(first));
    expect(test.harbor.state.rooms.byId.size).toBe(1);
    expect(ask(test, {}, "final", "another").refused?.code).toBe("request-key-reused");
    const restored = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
    expect(restored?.state.rooms.requests.get("final")).toMatchObject({ room: id(first) });
    test.pass(61_000);
    expect(ask(test, {}, "final").refused?.detail).toContain("has closed meanwhile");
  });

  it("has the code that was asked for, unless a room has it", () => {
    const test = new TestHarbor({ ...testRules(), share: { number: 0, of: 1 } });
    const room = opened(test, { code: "TRM7K" });
    expect(test.room(room).code).toBe("TRM7K");
    expect(ask(test, { code: "TRM7K" }).refused?.code).toBe("room-code-taken");
    expect(ask(test, { code: "AEIO0" }).refused?.detail).toContain("expected 5 characters out of");
  });

  it.each([
    ["lobby-unknown", { lobby: "nowhere" }],
    ["room-kind-unknown", { kind: "nothing" }],
    ["capacity-out-of-range", { capacity: 60 }],
    ["level-unknown", { level: "nowhere" }],
  ])("is refused with %s", (code, wish) => {
    expect(ask(new TestHarbor(), wish).refused?.code).toBe(code);
  });

  it("takes its own build alone where it was given one", () => {
    const test = new TestHarbor();
    const room = opened(test, { build: "another" });
    expect(join(test, test.connect("Ansel"), room).refused?.code).toBe("room-build-differs");
  });
});

describe("a place that is kept", () => {
  const account = "game:1";

  it("lets its owner into a full and locked room, and nobody else", () => {
    const test = new TestHarbor();
    const room = opened(test, { capacity: 2 });
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    join(test, ansel, room);
    expect(reserve(test, room, { for: { account }, name: "Corin" }).refused).toBeUndefined();
    expect(test.views.get(ansel)?.room?.reserved).toMatchObject([{ name: "Corin" }]);
    const refused = join(test, brisa, room).refused;
    expect(refused).toMatchObject({ code: "room-full" });
    expect(refused?.detail).toContain("1 of 2 places are taken and 1 kept for somebody");
    test.ok({ do: "room.operator-change", room, change: { visibility: "locked" } });
    const corin = test.connectAs(account) ?? "";
    expect(join(test, corin, room).refused).toBeUndefined();
    expect(test.room(room).reservations.size).toBe(0);
    expect(test.views.get(ansel)?.room?.reserved).toBeUndefined();
  });

  it("lets its owner into a run that is under way, with a berth on the instance", () => {
    const test = new TestHarbor();
    const room = opened(test, { capacity: 3 });
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [
      string,
      string,
      string,
    ];
    for (const player of [ansel, brisa]) join(test, player, room);
    playRoom(test, room);
    expect(join(test, corin, room).refused?.code).toBe("room-started");
    reserve(test, room, { for: { player: corin } });
    expect(join(test, corin, room).refused).toBeUndefined();
    const added = test.appliedEvents.flatMap(({ event }) => (event.kind === "instance.berth-added" ? [event] : []));
    expect(added.at(-1)).toMatchObject({ instance: instanceOf(test, room), player: { id: corin } });
    boardAll(test, room);
  });

  it("is open to others once its time is over, and told so", () => {
    const test = new TestHarbor();
    const room = opened(test, { capacity: 2 });
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    join(test, ansel, room);
    reserve(test, room, { for: { account } });
    test.pass(10_001);
    expect(test.views.get(ansel)?.room?.reserved).toBeUndefined();
    expect(join(test, brisa, room).refused).toBeUndefined();
  });

  it("lasts as long as was said last, for one and the same", () => {
    const test = new TestHarbor();
    const room = opened(test);
    reserve(test, room, { for: { account }, side: undefined });
    test.pass(8_000);
    reserve(test, room, { for: { account } });
    test.pass(8_000);
    expect(test.room(room).reservations.size).toBe(1);
    test.ok({ do: "room.operator-cancel", room, for: { account } });
    expect(test.room(room).reservations.size).toBe(0);
    expect(test.run({ do: "room.operator-cancel", room, for: { account } }).refused?.code).toBe("reservation-unknown");
  });

  it("counts on its side", () => {
    const test = new TestHarbor();
    const room = opened(test, { kind: "sided", capacity: 4 });
    const max = test.room(room).policy.sides?.max ?? 0;
    for (let n = 0; n < max; n++) reserve(test, room, { for: { account: `game:${n + 10}` }, side: "north" });
    expect(reserve(test, room, { for: { account: "game:99" }, side: "north" }).refused?.code).toMatch(
      /side-full|room-full/,
    );
    const ansel = test.connect("Ansel");
    expect(join(test, ansel, room, { side: "north" }).refused?.code).toBe("side-full");
    const owner = test.connectAs("game:10") ?? "";
    join(test, owner, room);
    expect(test.room(room).members.get(owner)?.side).toBe("north");
  });

  it("is refused where none is free, for a side that is none, and for who is in already", () => {
    const test = new TestHarbor();
    const room = opened(test, { capacity: 2 });
    const ansel = test.connect("Ansel");
    join(test, ansel, room);
    expect(reserve(test, room, { for: { player: ansel } }).refused?.code).toBe("already-in-room");
    expect(reserve(test, room, { for: { account }, side: "north" }).refused?.code).toBe("side-unknown");
    reserve(test, room, { for: { account } });
    expect(reserve(test, room, { for: { account: "game:2" } }).refused?.code).toBe("room-full");
    expect(test.run({ do: "room.operator-change", room, change: { capacity: 1 } }).refused).toBeDefined();
  });
});

describe("what an operator does to a room", () => {
  it("brings players in, out of other rooms too, and tells them what they are in", () => {
    const test = new TestHarbor();
    const room = opened(test);
    const ansel = test.connect("Ansel");
    test.ask(ansel, { do: "room.open", player: ansel, args: {} });
    test.ok({ do: "room.operator-put", room, player: ansel, side: undefined });
    expect(test.views.get(ansel)?.room?.id).toBe(room);
    test.run({ do: "player.lose", player: ansel, connection: 1 });
    const other = opened(test);
    expect(test.run({ do: "room.operator-put", room: other, player: ansel, side: undefined }).refused?.code).toBe(
      "player-away",
    );
    expect(test.run({ do: "room.operator-put", room: other, player: "p_none", side: undefined }).refused?.code).toBe(
      "player-unknown",
    );
  });

  it("readies, starts and ends, with what is missing named", () => {
    const test = new TestHarbor();
    const room = opened(test);
    const players = ["Ansel", "Brisa"].map((name) => test.connect(name));
    for (const player of players) test.ok({ do: "room.operator-put", room, player, side: undefined });
    test.ok({ do: "room.operator-change", room, change: { level: "brine-gate" } });
    expect(test.run({ do: "room.operator-start", room }).refused).toMatchObject({
      code: "start-not-possible",
      missing: [{ code: "ready" }, { code: "ready" }],
    });
    for (const player of players) test.ok({ do: "room.operator-ready", room, player, ready: true });
    test.ok({ do: "room.operator-start", room });
    expect(test.run({ do: "room.operator-end", room, reason: undefined }).refused?.code).toBe("wrong-phase");
    bringUp(test, room);
    boardAll(test, room);
    test.ok({ do: "room.operator-end", room, reason: "rain" });
    expect(test.room(room)).toMatchObject({ phase: "gathering", result: { void: true } });
    expect(test.room(room).setback?.detail).toBe("The run is void, since an operator has ended it: rain.");
  });

  it("is refused when the room has changed since it was looked at", () => {
    const test = new TestHarbor();
    const room = opened(test);
    const { revision } = test.room(room);
    test.ok({ do: "room.operator-change", room, basedOn: revision, change: { name: "Final" } });
    const { refused } = test.run({
      do: "room.operator-change",
      room,
      basedOn: revision,
      change: { name: "Semifinal" },
    });
    expect(refused).toMatchObject({ code: "revision-stale", current: { revision: revision + 1 } });
    expect(reserve(test, room, { for: { account: "game:1" } }, revision).refused?.code).toBe("revision-stale");
  });
});
