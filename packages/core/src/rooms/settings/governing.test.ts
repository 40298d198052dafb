import { beforeEach, describe, expect, it } from "vitest";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let room: string;
beforeEach(() => {
  test = new TestHarbor();
  ansel = test.connect("Ansel");
  brisa = test.connect("Brisa");
  room = openRoom(test, ansel, { capacity: 3 });
  joinRoom(test, room, brisa);
});

const change = (player: string, args: Extract<Parameters<TestHarbor["run"]>[0], { do: "room.change" }>["args"]) =>
  ({ do: "room.change", player, args }) as const;

describe("settings", () => {
  it("are changed by the host alone, in part, and seen by all at once", () => {
    expect(test.refusal(change(brisa, { name: "Mine" })).code).toBe("not-host");
    test.ok(change(ansel, { name: "Low water", capacity: 4 }));
    expect(test.views.get(brisa)?.room).toMatchObject({
      name: "Low water",
      capacity: 4,
      visibility: "listed",
      settingsRevision: 1,
    });
  });

  it("made from settings that are no longer so are refused with the present ones", () => {
    test.ok(change(ansel, { name: "Low water", basedOn: 0 }));
    expect(test.refusal(change(ansel, { capacity: 5, basedOn: 0 }))).toMatchObject({
      code: "settings-stale",
      detail:
        "The settings are at revision 1, not 0: name Low water, capacity 3, visibility listed, level not picked. Look again, then change.",
    });
    test.ok(change(ansel, { capacity: 5, basedOn: 1 }));
  });

  it("never leave a member without its place", () => {
    const corin = test.connect("Corin");
    test.ask(corin, { do: "room.join", player: corin, args: { room } });
    test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    // Two are in, but Corin sits at place 2.
    expect(test.refusal(change(ansel, { capacity: 2 }))).toMatchObject({
      code: "capacity-out-of-range",
      fields: [{ message: "expected at least 3" }],
    });
    expect(test.refusal(change(ansel, { capacity: 7 })).fields?.[0]?.message).toBe("expected 1 to 6");
  });

  it("that change nothing cause no update", () => {
    expect(test.run(change(ansel, { capacity: 3, visibility: "listed" })).appliedEvents).toEqual([]);
  });
});

describe("visibility", () => {
  it("decides who may come in, each cause with a code of its own", () => {
    const corin = test.connect("Corin");
    const { code } = test.room(room);
    test.ok(change(ansel, { visibility: "code-only" }));
    // By its id nobody learns that it is there, whatever build they play.
    expect(test.refusal({ do: "room.join", player: corin, args: { room } }).code).toBe("room-unknown");
    test.ok(change(ansel, { visibility: "locked" }));
    expect(test.refusal({ do: "room.join", player: corin, args: { code } }).code).toBe("room-locked");
    test.ok(change(ansel, { visibility: "code-only" }));
    test.ok({ do: "room.join", player: corin, args: { code } });
  });
});

describe("the host's powers", () => {
  it("are handed over to a member who is here, and gone with that", () => {
    expect(test.refusal({ do: "room.hand-over", player: ansel, args: { to: "p_000000000000" } }).code).toBe(
      "member-unknown",
    );
    test.ok({ do: "room.hand-over", player: ansel, args: { to: brisa } });
    expect(test.views.get(ansel)?.room?.host).toBe(brisa);
    expect(test.refusal(change(ansel, { capacity: 4 })).code).toBe("not-host");
  });

  it("kick a member, who is told why and is in the lobby again", () => {
    expect(test.refusal({ do: "room.kick", player: brisa, args: { player: ansel, ban: false } }).code).toBe("not-host");
    expect(test.refusal({ do: "room.kick", player: ansel, args: { player: ansel, ban: false } }).code).toBe(
      "member-unknown",
    );
    const { appliedEvents } = test.run({
      do: "room.kick",
      player: ansel,
      args: { player: brisa, reason: "too loud", ban: false },
    });
    const told = appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "you");
    expect(told).toMatchObject([
      { to: brisa, update: { kind: "out-of-room", room, cause: "kicked", by: "host", why: "too loud" } },
    ]);
    expect(test.views.get(brisa)?.lobby?.players?.[brisa]?.name).toBe("Brisa");
    expect(test.harbor.state.players.byId.get(brisa)?.room).toBeNull();
    test.ok({ do: "room.join", player: brisa, args: { room } });
  });

  it("ban whom they name", () => {
    test.ok({ do: "room.kick", player: ansel, args: { player: brisa, ban: true } });
    expect(test.refusal({ do: "room.join", player: brisa, args: { room } }).code).toBe("banned-from-room");
    expect(test.refusal({ do: "room.join", player: brisa, args: { code: test.room(room).code } }).code).toBe(
      "banned-from-room",
    );
    // QuickJoin goes past that room and opens another.
    expect(test.ok({ do: "room.quick-join", player: brisa, args: {} })).toMatchObject({ opened: true });
  });
});

describe("quickJoin", () => {
  it("brings two who quick-join at once together", () => {
    test.ask(ansel, { do: "room.leave", player: ansel, args: {} });
    test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    const first = test.ok({ do: "room.quick-join", player: ansel, args: {} }) as {
      room: { id: string };
      opened: boolean;
    };
    const second = test.ok({ do: "room.quick-join", player: brisa, args: {} }) as {
      room: { id: string };
      opened: boolean;
    };
    expect([first.opened, second.opened]).toEqual([true, false]);
    expect(second.room.id).toBe(first.room.id);
  });

  it("takes the fullest room, among those the oldest, and none that would not let one in", () => {
    const [corin, dovie, edda, fenn] = ["Corin", "Dovie", "Edda", "Fenn"].map((name) => test.connect(name)) as [
      string,
      string,
      string,
      string,
    ];
    test.ask(corin, { do: "room.open", player: corin, args: { capacity: 3 } });
    expect(test.ok({ do: "room.quick-join", player: dovie, args: {} })).toMatchObject({
      opened: false,
      room: { id: room },
    });
    // That one is full now; the other has two free places.
    expect(test.ok({ do: "room.quick-join", player: edda, args: {} })).toMatchObject({
      opened: false,
      room: { name: "Corin's room" },
    });
    test.ok(change(corin, { visibility: "locked" }));
    expect(test.ok({ do: "room.quick-join", player: fenn, args: {} })).toMatchObject({ opened: true });
  });
});

describe("an operator", () => {
  it("closes a room in the middle of a travel, and nothing of it stays behind", () => {
    test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    for (const player of [ansel, brisa]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: ansel, args: {} });
    const { appliedEvents } = test.run({ do: "room.dissolve", room, reason: "maintenance", by: "operator" });
    const { rooms, travels, pools, lobbies } = test.harbor.state;
    expect([rooms.byId.size, rooms.byCode.size, travels.byRun.size, pools.byRoom.size]).toEqual([0, 0, 0, 0]);
    expect([...(lobbies.byId.get("quayside")?.standing.keys() ?? [])].sort()).toEqual([ansel, brisa].sort());
    const told = appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "you");
    expect(told.map((push) => [push.to, "why" in push.update && push.update.why])).toEqual([
      [brisa, "maintenance"],
      [ansel, "maintenance"],
    ]);
    expect([...pools.instances.values()].map(({ state }) => state)).toEqual(["draining"]);
  });

  it("kicks a player from the harbor, whose token is then worthless", () => {
    const { effects } = test.run({ do: "player.kick", player: ansel, reason: "cheating" });
    expect(effects).toEqual([
      { effect: "end-connection", player: ansel, code: "kicked", detail: "An operator kicked you: cheating." },
    ]);
    expect(test.room(room).host).toBe(brisa);
    expect(test.refusal({ do: "player.resume", player: ansel, connection: 9 }).code).toBe("player-unknown");
    expect(test.refusal({ do: "player.kick", player: ansel, reason: undefined }).code).toBe("player-unknown");
  });
});
