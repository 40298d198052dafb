import type { PoolRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { testMachine, testPlan, testRules, testSpec } from "../testing/rules.ts";
import { acknowledge, boardAll, bringUp, instanceOf, startedRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { poolView } from "./view.ts";

function planned(change: Partial<PoolRules> = {}): TestHarbor {
  const rules = testRules();
  const sluice = rules.pools.get("sluice");
  if (!sluice) throw new Error("no pool");
  const plan = testPlan({ spare: 1, cooldownMs: 10_000 });
  const pools = new Map([...rules.pools, ["sluice", { ...sluice, plan, ...change }] as const]);
  const test = new TestHarbor({ ...rules, pools });
  test.ok({ do: "plan.consider", pool: "sluice" });
  return test;
}

const base = testPlan({ spare: 1, cooldownMs: 10_000 });

const live = (test: TestHarbor) =>
  [...test.harbor.state.pools.instances.values()].filter(({ gone, state }) => !gone && state !== "draining");

/** Everything that was launched comes up. */
function comeUp(test: TestHarbor): void {
  for (const { id, state, address } of live(test)) {
    if (state !== "launched") continue;
    test.ok({ do: "instance.spawned", instance: id, pid: 4_242 });
    test.ok({ do: "instance.announce", instance: id, port: address.port, pid: 4_242 });
    test.ok({ do: "instance.probed", instance: id, reached: true, detail: "reached" });
  }
}

const view = (test: TestHarbor) => poolView(test.harbor.state, test.harbor.rules, "sluice", test.now);
const two = (test: TestHarbor) => [test.connect("Ansel"), test.connect("Brisa")];

describe("a pool with a plan", () => {
  it("has its spare instance before anybody asks, hands it out, and launches the next", () => {
    const test = planned();
    expect(live(test).map(({ state, holds }) => [state, holds.size])).toEqual([["launched", 0]]);
    comeUp(test);
    const ready = live(test)[0]?.id;
    const room = startedRoom(test, "crews", two(test));
    expect(instanceOf(test, room)).toBe(ready);
    // It was open: the match is assigned in the same read.
    expect(test.instance(ready ?? "").state).toBe("busy");
    test.pass(0);
    expect(live(test).filter((one) => one.holds.size === 0)).toHaveLength(1);
    expect(view(test)).toMatchObject({ held: 1, coming: 1, plan: { wanted: 2, spare: 1 } });
  });

  it("gives a room one that is on its way up rather than ordering another", () => {
    const test = planned();
    const coming = live(test)[0]?.id ?? "";
    const room = startedRoom(test, "crews", two(test));
    expect(instanceOf(test, room)).toBe(coming);
    bringUp(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
  });

  it("retires what nobody holds once the need was lower for its time, and never one that a room holds", () => {
    const test = planned({ max: 3 });
    comeUp(test);
    const room = startedRoom(test, "crews", two(test));
    acknowledge(test, room);
    boardAll(test, room);
    test.pass(0);
    comeUp(test);
    expect(live(test)).toHaveLength(2);
    test.ok({ do: "plan.pin", pool: "sluice", instances: 3 });
    test.pass(0);
    comeUp(test);
    expect(live(test)).toHaveLength(3);
    // By its demand it would keep one to spare, after its time.
    test.ok({ do: "plan.pin", pool: "sluice", instances: null });
    test.pass(9_000);
    expect(live(test)).toHaveLength(3);
    test.pass(1_500);
    expect(live(test)).toHaveLength(2);
    // An operator's word need not settle.
    test.ok({ do: "plan.pin", pool: "sluice", instances: 0 });
    test.pass(0);
    expect(live(test).flatMap(({ holds }) => [...holds.keys()])).toEqual([room]);
    expect(test.room(room).phase).toBe("playing");
    // While their processes still run there is no place for another.
    test.ok({ do: "plan.pin", pool: "sluice", instances: null });
    test.pass(0);
    const before = test.kinds().length;
    test.pass(2_000);
    expect(test.kinds(before)).not.toContain("plan.made");
    for (const { id, state, gone } of test.harbor.state.pools.instances.values()) {
      if (state === "draining" && !gone) test.ok({ do: "instance.exited", instance: id, exitCode: 0, signal: null });
    }
    // Their ports rest first.
    test.pass(6_000);
    expect(live(test)).toHaveLength(2);
  });

  it("hands an instance from room to room where it may, and retires it when it is one too many", () => {
    const test = planned({ reuse: "any" });
    comeUp(test);
    const players = two(test);
    const room = startedRoom(test, "crews", players);
    const used = instanceOf(test, room);
    acknowledge(test, room);
    boardAll(test, room);
    const run = test.room(room).run ?? "";
    test.ok({ do: "instance.report", instance: used, run, standings: [], note: undefined });
    test.pass(0);
    comeUp(test);
    for (const player of players) test.ok({ do: "room.leave", player, args: {} });
    expect(test.instance(used)).toMatchObject({ state: "open", holds: new Map() });
    const again = startedRoom(test, "crews", players);
    expect(live(test).map(({ id }) => id)).toContain(instanceOf(test, again));
    expect(test.journal.map(({ event }) => event.kind)).toContain("instance.returned");
  });

  it("waits longer after each instance that does not come up, gives up, and goes on when told to", () => {
    const test = planned();
    const failures: number[] = [];
    for (let n = 0; n < 60 && (view(test)?.failures ?? 0) < 6; n++) {
      const [one] = live(test).filter(({ state }) => state === "launched");
      if (one) {
        failures.push(test.now);
        test.ok({ do: "instance.start-failed", instance: one.id, detail: "no such program", portTaken: false });
      }
      test.pass(1_000);
    }
    expect(failures).toHaveLength(6);
    const waits = failures.slice(1).map((at, n) => at - (failures[n] ?? 0));
    for (const [n, wait] of waits.entries()) expect(wait).toBeGreaterThanOrEqual(1_000 * 2 ** n);
    test.pass(300_000);
    expect(live(test)).toEqual([]);
    expect(view(test)?.text.join(" ")).toContain("The last 6 instances failed before they were open");
    test.ok({ do: "plan.set-mode", pool: "sluice", mode: "open" });
    test.pass(0);
    expect(live(test)).toHaveLength(1);
    comeUp(test);
    expect(view(test)?.failures).toBe(0);
  });

  it("does nothing while it is paused, and says so", () => {
    const test = planned();
    comeUp(test);
    test.ok({ do: "plan.set-mode", pool: "sluice", mode: "paused" });
    startedRoom(test, "crews", two(test));
    test.pass(5_000);
    expect(live(test)).toHaveLength(1);
    expect(view(test)?.text.join(" ")).toContain("paused");
    test.ok({ do: "plan.set-mode", pool: "sluice", mode: "open" });
    test.pass(0);
    expect(live(test)).toHaveLength(2);
  });

  it("counts rooms that count down, and what is asked for while an instance comes up", () => {
    const test = planned({ max: 3 });
    test.pass(4_000);
    comeUp(test);
    const [host = "", mate = ""] = two(test);
    test.ok({ do: "room.open", player: host, args: { kind: "counted" } });
    const room = test.harbor.state.players.byId.get(host)?.room ?? "";
    test.ok({ do: "room.join", player: mate, args: { room } });
    test.ok({ do: "room.pick-level", player: host, args: { level: "brine-gate" } });
    for (const player of [host, mate]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: host, args: {} });
    expect(test.room(room).phase).toBe("counting");
    test.pass(1_000);
    expect(view(test)?.plan).toMatchObject({ wanted: 2, bootS: 4 });
    expect(view(test)?.text[0]).toContain("1 for rooms that count down");
    // Asked for once in a minute, by instances that take four seconds: less than one at a time.
    test.pass(3_000);
    expect(view(test)?.plan).toMatchObject({ meanwhile: 0, wanted: 2, ratePerS: 1 / 60 });
  });

  it("goes on after a restart, with what it has learnt", () => {
    const test = planned();
    test.pass(3_000);
    comeUp(test);
    const before = view(test);
    Object.assign(test, { harbor: Harbor.fromSnapshot(test.harbor.rules, test.harbor.snapshot()) });
    test.ok({ do: "plan.consider", pool: "sluice" });
    expect(view(test)).toEqual(before);
    test.pass(60_000);
    expect(live(test)).toHaveLength(1);
  });

  it("refuses pools that are not there, have no plan, or could not run so many", () => {
    const test = planned();
    expect(test.refusal({ do: "plan.pin", pool: "quay", instances: 1 }).code).toBe("pool-unknown");
    expect(test.refusal({ do: "plan.pin", pool: "weir", instances: 1 }).code).toBe("pool-unplanned");
    expect(test.refusal({ do: "plan.pin", pool: "sluice", instances: 4 }).code).toBe("request-invalid");
  });
});

describe("a version that is rolled out into a pool whose instances serve room after room", () => {
  it("gets its share of instances and rooms, and takes over, though nothing new had to be launched", () => {
    const test = planned({ reuse: "any", max: 6 });
    comeUp(test);
    const spec = testSpec({ version: "2" });
    const rollOut = { steps: [0.5, 1], enough: 2, maxFailures: 0.2 };
    test.ok({ do: "build.add", line: "breakwater", spec, rollOut });
    const line = () => test.harbor.state.builds.byLine.get("breakwater");
    for (let n = 0; n < 12 && line()?.current !== "2"; n++) {
      test.pass(2_000);
      comeUp(test);
      const players = [test.connect(`Ansel ${n}`), test.connect(`Brisa ${n}`)];
      const room = startedRoom(test, "crews", players);
      comeUp(test);
      acknowledge(test, room);
      boardAll(test, room);
      const instance = instanceOf(test, room);
      const run = test.room(room).run ?? "";
      test.ok({ do: "instance.report", instance, run, standings: [], note: undefined });
      for (const player of players) test.run({ do: "player.leave", player });
    }
    expect(line()).toMatchObject({ current: "2", canary: null });
  });
});

describe("a plan with times, costs or regions", () => {
  it("is larger in the times of its schedule and those of operators, and says until when", () => {
    const test = planned({ max: 8, ports: { from: 7_000, to: 7_020 } });
    const hour = 3_600_000;
    comeUp(test);
    const windows = [
      {
        id: "schedule-1",
        fromMs: test.now + hour,
        untilMs: test.now + 2 * hour,
        min: 3,
        spare: 0,
        why: "schedule 0 18 * * *",
      },
    ];
    test.run({ do: "plan.schedule", pool: "sluice", windows });
    const before = test.journal.length;
    test.run({ do: "plan.schedule", pool: "sluice", windows });
    expect(test.journal.length).toBe(before);
    expect(view(test)?.text.join(" ")).toMatch(/From 1970-\S+ until 1970-\S+ it is larger \(at least 3, 0 to spare\)/);
    test.pass(hour);
    comeUp(test);
    expect(live(test)).toHaveLength(3);
    expect(view(test)?.text[0]).toMatch(/raised to the minimum \(larger now: schedule 0 18 \* \* \*, until 1970-/);
    const ask = { fromMs: undefined, lastsMs: hour, min: 5, spare: 0, reason: "the regatta" };
    test.ok({ do: "plan.warm", pool: "sluice", ...ask });
    test.pass(1_000);
    comeUp(test);
    expect(live(test)).toHaveLength(5);
    const known = test.harbor.state.plans.byPool.get("sluice")?.windows ?? [];
    const mine = known.find(({ why }) => why === "the regatta")?.id ?? "";
    expect(test.refusal({ do: "plan.cool", pool: "sluice", window: "schedule-1" }).detail).toContain(
      "take it out of the configuration",
    );
    expect(test.refusal({ do: "plan.cool", pool: "sluice", window: "w_none" }).detail).toContain(`it has`);
    test.ok({ do: "plan.cool", pool: "sluice", window: mine });
    // The schedule no longer has it either.
    test.run({ do: "plan.schedule", pool: "sluice", windows: [] });
    test.pass(60_000);
    expect(live(test)).toHaveLength(1);
    const past = { ...ask, fromMs: test.now - 2 * hour, lastsMs: hour };
    expect(test.refusal({ do: "plan.warm", pool: "sluice", ...past }).detail).toMatch(/^That time ended at 1970-/);
    expect(test.refusal({ do: "plan.warm", pool: "sluice", ...ask, min: 99 }).detail).toContain("runs at most");
    expect(test.refusal({ do: "plan.warm", pool: "weir", ...ask }).code).toBe("pool-unplanned");
  });

  it("launches nothing ahead beyond what it may cost, says what was held back, and gives rooms theirs", () => {
    const test = planned({ pricePerSecond: 0.001, plan: { ...base, spare: 5, costPerHour: 8 } });
    comeUp(test);
    expect(live(test)).toHaveLength(2);
    expect(view(test)?.text[0]).toContain("limited by costs of 8 an hour at 3.6 each: 1 held back");
    for (const n of [0, 1, 2]) startedRoom(test, "crews", [test.connect(`Ansel ${n}`), test.connect(`Brisa ${n}`)]);
    expect(live(test).filter(({ holds }) => holds.size > 0)).toHaveLength(3);
  });

  it("keeps its spare in each region, whatever is spare elsewhere", () => {
    const machines = new Map([
      ["north-1", testMachine({ region: "north", max: 10 })],
      ["south-1", testMachine({ region: "south", max: 2 })],
    ]);
    const rules = testRules();
    const sluice = rules.pools.get("sluice");
    if (!sluice) throw new Error("no pool");
    const plan = { ...base, spareIn: { south: 2 }, cooldownMs: 0 };
    const pool = { ...sluice, max: 6, ports: { from: 7_000, to: 7_020 }, plan, machines: ["north-1", "south-1"] };
    const test = new TestHarbor({ ...rules, machines, pools: new Map([...rules.pools, ["sluice", pool]]) });
    test.ok({ do: "plan.consider", pool: "sluice" });
    comeUp(test);
    const regions = () =>
      live(test)
        .map(({ region }) => region)
        .sort();
    expect(regions()).toEqual(["south", "south"]);
    test.ok({ do: "plan.pin", pool: "sluice", instances: 4 });
    test.pass(1_000);
    comeUp(test);
    expect(regions()).toEqual(["north", "north", "south", "south"]);
    test.ok({ do: "plan.pin", pool: "sluice", instances: 3 });
    test.pass(2_000);
    expect(regions()).toEqual(["north", "south", "south"]);
  });
});
