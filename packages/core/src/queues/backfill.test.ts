import { describe, expect, it } from "vitest";
import { randomFrom } from "../model/stamp.ts";
import { acknowledge, boardAll, bringUp } from "../testing/scenes.ts";
import { pairOfRules, search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { fillRooms } from "./decide-backfill.ts";
import { explainMatch } from "./explain.ts";

const NAMES = ["Ansel", "Brisa", "Corin", "Dovie"];

/** Two against two, playing, in a room that a queue made. */
function playing(queue: string, test = new TestHarbor(pairOfRules())) {
  const players = NAMES.map((name) => test.connect(name));
  for (const [n, player] of players.entries()) search(test, player, 1_000 + n, { queue });
  test.pass(500);
  for (const player of players) accept(test, player);
  const room = test.harbor.state.players.byId.get(players[0] ?? "")?.room ?? "";
  bringUp(test, room);
  boardAll(test, room);
  expect(test.room(room).phase).toBe("playing");
  return { test, room, players, at: (n: number) => players[n] ?? "" };
}

function accept(test: TestHarbor, player: string): void {
  const match = ticketOf(test, player)?.asked;
  if (match !== undefined) test.ok({ do: "queue.confirm", player, args: { match, accept: true } });
}

const leave = (test: TestHarbor, player: string) => test.ok({ do: "room.leave", player, args: {} });
const roomOf = (test: TestHarbor, player: string) => test.harbor.state.players.byId.get(player)?.room;

describe("a playing room whose queue fills it up", () => {
  it("asks when somebody leaves, and who fits comes in on that side, is asked first and gets a pass", () => {
    const { test, room, at } = playing("confirming-pairs");
    const side = test.room(room).members.get(at(3))?.side;
    leave(test, at(3));
    expect(test.views.get(at(0))?.room?.backfill).toMatchObject({ queue: "confirming-pairs", places: 2 });
    const edda = test.connect("Edda");
    search(test, edda, 1_020, { queue: "confirming-pairs" });
    test.pass(500);
    expect(ticketOf(test, edda)).toMatchObject({ asked: expect.any(String) });
    const match = ticketOf(test, edda)?.asked ?? "";
    expect(explainMatch(test.harbor.state, match)?.text[0]).toContain(`fills up room ${test.room(room).code}`);
    accept(test, edda);
    expect(test.room(room).members.get(edda)).toMatchObject({ side });
    expect(
      told(test, edda)
        .map(({ kind }) => kind)
        .slice(-2),
    ).toEqual(["ticket-ended", "into-room"]);
    expect(test.views.get(edda)?.room?.id).toBe(room);
    // It is full again, and asks no more.
    expect(test.views.get(at(0))?.room?.backfill).toBeUndefined();
    acknowledge(test, room);
    const passes = test.appliedEvents.flatMap(({ pushes }) => pushes).filter((push) => push.scope === "pass");
    expect(passes.at(-1)).toMatchObject({ to: edda });
  });

  it("is filled also while its pool has no place for another match", () => {
    const rules = pairOfRules();
    const pools = new Map([...rules.pools].map(([id, pool]) => [id, { ...pool, max: 1 }] as const));
    const { test, room, at } = playing("confirming-pairs", new TestHarbor({ ...rules, pools }));
    leave(test, at(3));
    const edda = test.connect("Edda");
    search(test, edda, 1_020, { queue: "confirming-pairs" });
    test.pass(500);
    accept(test, edda);
    expect(roomOf(test, edda)).toBe(room);
  });

  it("has its turn in slices: so much work at once, the others after it, all of them once a pass", () => {
    const test = new TestHarbor(pairOfRules());
    const rooms = [playing("confirming-pairs", test), playing("confirming-pairs", test)];
    for (const { at } of rooms) leave(test, at(3));
    search(test, test.connect("Edda"), 9_000, { queue: "confirming-pairs" });
    const { state, rules } = test.harbor;
    const [known, queue] = [rules.queues.get("confirming-pairs"), state.queues.byName.get("confirming-pairs")];
    if (!known || !queue) throw new Error("the queue is not there");
    const waiters = { queues: state.queues, queue, rules: known.match };
    const { pool } = state.derived.waiting.take("confirming-pairs", waiters, { max: 100, isApart: false });
    const context = { state, rules, at: test.now, random: randomFrom([1, 2, 3, 4]) };
    const slice = () => fillRooms(context, "confirming-pairs", { known, pool, work: 1, max: 8 });
    expect([slice().hasMore, slice().hasMore, slice().hasMore]).toEqual([true, false, false]);
    state.derived.waiting.endPass("confirming-pairs");
    expect(slice().hasMore).toBe(true);
  });

  it("takes nobody who does not fit those who play, and more as they wait", () => {
    const { test, room, at } = playing("confirming-pairs");
    leave(test, at(3));
    const edda = test.connect("Edda");
    search(test, edda, 1_100, { queue: "confirming-pairs" });
    test.pass(1_000);
    expect(ticketOf(test, edda)?.asked).toBeUndefined();
    // 100 apart is allowed after 2 s, to the room and to who waits.
    test.pass(1_500);
    expect(ticketOf(test, edda)?.asked).toBeDefined();
    accept(test, edda);
    expect(roomOf(test, edda)).toBe(room);
  });

  it("takes the longest waiting of those who fit, and only so many in all", () => {
    const { test, room, at } = playing("confirming-pairs");
    leave(test, at(3));
    test.ok({ do: "queue.set-mode", queue: "confirming-pairs", mode: "paused" });
    test.ok({ do: "queue.set-mode", queue: "confirming-pairs", mode: "open" });
    const [edda, finn, greta] = ["Edda", "Finn", "Greta"].map((name) => test.connect(name));
    search(test, edda ?? "", 1_040, { queue: "confirming-pairs" });
    search(test, finn ?? "", 1_001, { queue: "confirming-pairs" });
    test.pass(500);
    expect(ticketOf(test, finn ?? "")?.asked).toBeUndefined();
    accept(test, edda ?? "");
    expect(roomOf(test, edda ?? "")).toBe(room);
    leave(test, edda ?? "");
    test.pass(500);
    accept(test, finn ?? "");
    expect(roomOf(test, finn ?? "")).toBe(room);
    leave(test, finn ?? "");
    // Two have come: that was its share.
    expect(test.harbor.state.queues.backfills.size).toBe(0);
    search(test, greta ?? "", 1_001, { queue: "confirming-pairs" });
    test.pass(1_000);
    expect(ticketOf(test, greta ?? "")?.asked).toBeUndefined();
    expect(test.refusal({ do: "queue.backfill", player: at(0), args: { wanted: true } }).code).toBe("wrong-phase");
  });

  it("stops asking after its time, when its host says so, and when the match is over", () => {
    const { test, room, at } = playing("confirming-pairs");
    leave(test, at(3));
    test.pass(20_000);
    expect(test.harbor.state.queues.backfills.size).toBe(0);
    test.ok({ do: "queue.backfill", player: at(0), args: { wanted: true } });
    expect(test.views.get(at(1))?.room?.backfill).toBeDefined();
    expect(test.refusal({ do: "queue.backfill", player: at(1), args: { wanted: false } }).code).toBe("not-host");
    test.ok({ do: "queue.backfill", player: at(0), args: { wanted: false } });
    expect(test.views.get(at(1))?.room?.backfill).toBeUndefined();
    test.ok({ do: "queue.operator-backfill", room, wanted: true });
    const instance = [...test.harbor.state.pools.instances.keys()][0] ?? "";
    const run = test.room(room).run ?? "";
    test.ok({ do: "instance.report", instance, run, standings: [], note: undefined });
    expect(test.harbor.state.queues.backfills.size).toBe(0);
  });

  it("puts who was found back with its wait when the match ends before it has answered", () => {
    const { test, room, at } = playing("confirming-pairs");
    leave(test, at(3));
    const edda = test.connect("Edda");
    search(test, edda, 1_010, { queue: "confirming-pairs" });
    const sinceMs = test.now;
    test.pass(500);
    test.ok({ do: "room.dissolve", room, reason: "test", by: "operator" });
    accept(test, edda);
    expect(ticketOf(test, edda)).toMatchObject({ sinceMs });
    expect(roomOf(test, edda)).toBeNull();
  });

  it("stops asking when the last one leaves, and whoever watches sees it", () => {
    const { test, players } = playing("backfilled-pairs");
    for (const player of players) leave(test, player);
    expect(test.kinds()).toContain("queue.backfill-ended");
    expect(test.watched.queues["backfilled-pairs"]).toMatchObject({ backfill: 0 });
    expect(test.harbor.state.rooms.byId.size).toBe(0);
  });

  it("refuses rooms of no queue, or of one that plays on", () => {
    const { test, at } = playing("pairs");
    leave(test, at(3));
    expect(test.harbor.state.queues.backfills.size).toBe(0);
    expect(test.refusal({ do: "queue.backfill", player: at(0), args: { wanted: true } }).code).toBe("not-of-queue");
  });
});

describe("a playing room whose queue ends it when somebody leaves", () => {
  it("closes with a word why, and the others are in the lobby", () => {
    const { test, room, at } = playing("ended-pairs");
    leave(test, at(3));
    expect(test.harbor.state.rooms.byId.has(room)).toBe(false);
    expect(roomOf(test, at(0))).toBeNull();
    const out = test.appliedEvents
      .map(({ event }) => event)
      .find((event) => event.kind === "room.departed" && event.player === at(0));
    expect(out).toMatchObject({ reason: "closed", why: "Dovie has left the match" });
  });
});
