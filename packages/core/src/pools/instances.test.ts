import type { BuildSpec, PoolRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { matchFor } from "../model/pools/holds.ts";
import { testPlan, testRules, testSpec } from "../testing/rules.ts";
import { acknowledge, boardAll, instanceOf, joinRoom, runOf, startedRoom, startRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { costsView } from "./costs.ts";
import { instanceView } from "./view.ts";

const plan = testPlan({ cooldownMs: 5_000, reclaimMs: 4_000 });

function harbor(spec: Partial<BuildSpec> = {}, change: Partial<PoolRules> = {}): TestHarbor {
  const rules = testRules();
  const sluice = rules.pools.get("sluice");
  if (!sluice) throw new Error("no pool");
  const pools = new Map([...rules.pools, ["sluice", { ...sluice, max: 3, ...change }] as const]);
  return new TestHarbor({ ...rules, pools }, testSpec(spec));
}

function comeUp(test: TestHarbor, instance: string): void {
  const { port } = test.instance(instance).address;
  test.ok({ do: "instance.spawned", instance, pid: 4_242 });
  test.ok({ do: "instance.announce", instance, port, pid: 4_242 });
  test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
}

const two = (test: TestHarbor, name: string) => [test.connect(`${name} one`), test.connect(`${name} two`)];

function played(test: TestHarbor, name: string, kind = "crews"): string {
  const room = startedRoom(test, kind, two(test, name));
  const instance = instanceOf(test, room);
  if (test.instance(instance).state === "launched") comeUp(test, instance);
  acknowledge(test, room);
  boardAll(test, room);
  expect(test.room(room).phase).toBe("playing");
  return room;
}

const poll = (test: TestHarbor, instance: string, players?: readonly string[]) =>
  test.ok({ do: "instance.acknowledge", instance, acknowledged: test.instance(instance).instructionsGiven, players });

describe("an instance that serves several rooms", () => {
  it("takes them one after the other, fills up before another is launched, and keeps their matches apart", () => {
    const test = harbor({ rooms: 2, berths: 4 });
    const first = played(test, "First");
    const second = played(test, "Second");
    expect(instanceOf(test, second)).toBe(instanceOf(test, first));
    const third = startedRoom(test, "crews", two(test, "Third"));
    expect(instanceOf(test, third)).not.toBe(instanceOf(test, first));
    const shared = instanceOf(test, first);
    expect(instanceView(test.harbor.state, test.instance(shared)).rooms.map(({ room }) => room)).toEqual([
      first,
      second,
    ]);
    test.ok({ do: "instance.report", instance: shared, run: runOf(test, first), standings: [], note: undefined });
    expect(test.room(first).phase).not.toBe("playing");
    expect(test.room(second).phase).toBe("playing");
    expect(test.instance(shared).state).toBe("busy");
  });

  it("is not given more players than it has berths", () => {
    const test = harbor({ rooms: 5, berths: 3 });
    const first = played(test, "First");
    const second = startedRoom(test, "crews", two(test, "Second"));
    expect(instanceOf(test, second)).not.toBe(instanceOf(test, first));
  });

  it("goes on for one room when the other closes in the middle of its match, and is told that this one is over", () => {
    const test = harbor({ rooms: 2, berths: 8 });
    const [first, second] = [played(test, "First"), played(test, "Second")];
    const shared = instanceOf(test, first);
    test.ok({ do: "room.dissolve", room: first, reason: "enough", by: "operator" });
    expect(test.instance(shared).instructions.at(-1)).toMatchObject({ instruction: "end-match" });
    expect(test.instance(shared).holds.has(first)).toBe(false);
    expect(test.room(second).phase).toBe("playing");
    test.ok({ do: "instance.exited", instance: shared, exitCode: 1, signal: null });
    expect(test.room(second).phase).not.toBe("playing");
  });
});

describe("an instance for one match only", () => {
  it("is not used for the next run of its room, and stops once that has arrived elsewhere", () => {
    const test = harbor({ matches: "one" });
    const room = played(test, "First");
    const used = instanceOf(test, room);
    test.ok({ do: "instance.report", instance: used, run: runOf(test, room), standings: [], note: undefined });
    startRoom(test, room);
    expect(instanceOf(test, room)).not.toBe(used);
    comeUp(test, instanceOf(test, room));
    acknowledge(test, room);
    boardAll(test, room);
    expect(test.instance(used)).toMatchObject({ state: "draining", stopping: true });
  });
});

describe("an instance that drains", () => {
  it("plays to the end, takes no new room, and stops when its room lets go", () => {
    const test = harbor({ rooms: 4 });
    const room = played(test, "First");
    const one = instanceOf(test, room);
    test.ok({ do: "pool.drain", id: one, why: "drained by an operator" });
    expect(test.instance(one)).toMatchObject({ state: "draining", stopping: false });
    expect(instanceOf(test, startedRoom(test, "crews", two(test, "Second")))).not.toBe(one);
    expect(test.room(room).phase).toBe("playing");
    for (const player of [...test.room(room).members.keys()]) test.ok({ do: "room.leave", player, args: {} });
    expect(test.instance(one).stopping).toBe(true);
  });

  it("is stopped when its time is over, and who is still in it goes where the room's kind says", () => {
    const test = harbor({}, { drainMs: 30_000 });
    const room = played(test, "First", "anywhere");
    const one = instanceOf(test, room);
    test.ok({ do: "pool.drain", id: one, why: "a new kernel" });
    test.pass(29_000);
    expect(test.room(room).phase).toBe("playing");
    test.pass(1_500);
    expect(test.instance(one).instructions.at(-1)).toMatchObject({ instruction: "stop" });
    // This kind of room moves on: to another instance.
    expect(test.room(room).phase).toBe("travelling");
    expect(instanceOf(test, room)).not.toBe(one);
  });

  it("is reclaimed when a room needs it, rather than another being launched", () => {
    const test = harbor({}, { plan, reuse: "any" });
    test.ok({ do: "plan.pin", pool: "sluice", instances: 1 });
    test.pass(0);
    const [one] = [...test.harbor.state.pools.instances.keys()];
    comeUp(test, one ?? "");
    test.ok({ do: "plan.pin", pool: "sluice", instances: 0 });
    test.pass(0);
    expect(test.instance(one ?? "")).toMatchObject({ state: "draining", stopping: false });
    const room = startedRoom(test, "crews", two(test, "First"));
    expect(instanceOf(test, room)).toBe(one);
    expect(test.instance(one ?? "").state).toBe("busy");
  });

  it("is reclaimed by the planner when the need returns, and stops when it does not", () => {
    const test = harbor({}, { plan, reuse: "any" });
    const pin = (instances: number | null) => {
      test.ok({ do: "plan.pin", pool: "sluice", instances });
      test.pass(0);
    };
    pin(1);
    const [one = ""] = [...test.harbor.state.pools.instances.keys()];
    comeUp(test, one);
    pin(0);
    pin(1);
    expect(test.instance(one)).toMatchObject({ state: "open", why: expect.stringContaining("reclaimed") });
    expect(test.harbor.state.pools.instances.size).toBe(1);
    pin(0);
    test.pass(4_500);
    expect(test.instance(one).stopping).toBe(true);
  });
});

describe("who is there, by the instance's word", () => {
  it("frees a berth that nobody sits on, once it has said so for some seconds, and shows the difference meanwhile", () => {
    const test = harbor();
    const room = played(test, "First", "open-house");
    const one = instanceOf(test, room);
    const [ansel = "", brisa = ""] = [...test.room(room).members.keys()];
    poll(test, one, [ansel, brisa]);
    expect(instanceView(test.harbor.state, test.instance(one)).differences).toBeUndefined();
    poll(test, one, [ansel]);
    expect(instanceView(test.harbor.state, test.instance(one)).differences).toMatchObject([
      { player: brisa, what: "not-there" },
    ]);
    // What crosses on the way is settled by the next word.
    poll(test, one, [ansel, brisa]);
    expect(instanceView(test.harbor.state, test.instance(one)).differences).toBeUndefined();
    poll(test, one, [ansel]);
    test.pass(3_500);
    poll(test, one, [ansel]);
    expect(matchFor(test.instance(one), room)?.berths.get(brisa)?.state).toBe("left");
    expect(test.room(room).members.get(brisa)?.aboard).toBe(false);
  });

  it("has somebody let go of who has left the room, and says nothing of who says nothing", () => {
    const test = harbor();
    const room = played(test, "First", "open-house");
    const one = instanceOf(test, room);
    const [ansel = "", brisa = ""] = [...test.room(room).members.keys()];
    test.ok({ do: "room.leave", player: brisa, args: {} });
    poll(test, one, [ansel, brisa]);
    test.pass(3_500);
    const before = test.instance(one).instructionsGiven;
    poll(test, one, [ansel, brisa]);
    expect(test.instance(one).instructions.at(-1)).toMatchObject({
      instruction: "release-player",
      player: brisa,
      number: before + 1,
    });
    const events = test.journal.length;
    poll(test, one);
    expect(test.kinds(events)).toEqual(["instance.acknowledged"]);
  });

  it("frees a berth that a late joining never took, once its pass is worth nothing", () => {
    const test = harbor();
    const room = played(test, "First", "open-house");
    const corin = test.connect("Corin");
    joinRoom(test, room, corin);
    const one = instanceOf(test, room);
    expect(matchFor(test.instance(one), room)?.berths.get(corin)?.state).toBe("reserved");
    test.pass(70_500);
    expect(matchFor(test.instance(one), room)?.berths.get(corin)?.state).toBe("left");
    expect(test.instance(one).instructions.at(-1)).toMatchObject({ instruction: "release-player", player: corin });
  });
});

describe("a key", () => {
  it("is that of one process: a second one that announces itself with it is sent away, the same one is welcome again", () => {
    const test = harbor();
    const room = startedRoom(test, "crews", two(test, "First"));
    const instance = instanceOf(test, room);
    comeUp(test, instance);
    const { port } = test.instance(instance).address;
    test.ok({ do: "instance.announce", instance, port, pid: 4_242 });
    expect(test.refusal({ do: "instance.announce", instance, port, pid: 4_243 })).toMatchObject({
      code: "instance-key-in-use",
      detail: expect.stringContaining("is that of process 4242, not of 4243"),
    });
    test.ok({ do: "instance.exited", instance, exitCode: 0, signal: null });
    expect(test.refusal({ do: "instance.announce", instance, port, pid: 4_242 }).code).toBe("instance-ended");
  });
});

describe("the meter", () => {
  it("counts by the second, of those that run and those that are gone, and prices what has a price", () => {
    const test = harbor({}, { pricePerSecond: 0.5 });
    const room = played(test, "First");
    const one = instanceOf(test, room);
    test.pass(10_000);
    const now = () => costsView(test.harbor.state, test.harbor.rules, test.now);
    expect(now()).toMatchObject({
      pools: [{ id: "sluice", seconds: 10, cost: 5 }],
      builds: [{ id: "breakwater 1", seconds: 10, cost: 5 }],
      machines: [{ id: "here", seconds: 10 }],
      rooms: [{ id: room, seconds: 10 }],
    });
    test.ok({ do: "instance.exited", instance: one, exitCode: 1, signal: null });
    test.pass(5_000);
    expect(now().rooms).toMatchObject([{ id: room, seconds: 10 }]);
    expect(now().pools).toMatchObject([{ id: "sluice", seconds: 10, cost: 5 }]);
  });

  it("counts a machine by the seconds in which it runs anything, however much that is", () => {
    const test = harbor();
    const [first, second] = [played(test, "First"), played(test, "Second")];
    test.pass(10_000);
    const seconds = () => costsView(test.harbor.state, test.harbor.rules, test.now).machines[0]?.seconds;
    expect(seconds()).toBe(10);
    for (const room of [first, second]) {
      test.ok({ do: "instance.exited", instance: instanceOf(test, room), exitCode: 1, signal: null });
    }
    test.pass(5_000);
    expect(seconds()).toBe(10);
  });
});
