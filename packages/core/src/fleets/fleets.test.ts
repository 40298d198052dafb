import type { MachineGroupRules, PoolRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import { machineViews } from "../machines/view.ts";
import { testMachine, testPlan, testRules } from "../testing/rules.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const FLEET = { start: ["start"], stop: ["stop"], min: 0, ordersAtOnce: 2, bootMs: 60_000, idleMs: 30_000 };
function withFleet(
  plan: Partial<NonNullable<PoolRules["plan"]>>,
  change: Partial<MachineGroupRules["fleet"]> = {},
): TestHarbor {
  const { driver: _, host: __, ...alike } = testMachine({ max: 2 });
  const cloud: MachineGroupRules = { ...alike, limit: 4, forgetMs: 20_000, fleet: { ...FLEET, ...change } };
  const rules = testRules();
  const sluice = rules.pools.get("sluice");
  if (!sluice) throw new Error("no pool");
  const pool: PoolRules = {
    ...{ ...sluice, machines: ["cloud"], max: 20, ports: { from: 7_000, to: 7_099 }, reuse: "any", bootMs: 3_600_000 },
    plan: testPlan({ cooldownMs: 1_000, ...plan }),
  };
  const test = new TestHarbor({
    ...rules,
    pools: new Map([["sluice", pool]]),
    machineGroups: new Map([["cloud", cloud]]),
  });
  test.ok({ do: "plan.consider", pool: "sluice" });
  test.ok({ do: "fleet.consider", group: "cloud" });
  return test;
}

const orders = (test: TestHarbor) => [...test.harbor.state.fleets.orders.keys()];
const kinds = (test: TestHarbor, from = 0) => test.kinds(from).filter((kind) => kind.startsWith("fleet."));

/** Whatever is on order joins, and what is launched there comes up. */
function arrive(test: TestHarbor): void {
  for (const [n, machine] of orders(test).entries()) {
    const host = `10.0.0.${n + 1 + test.harbor.state.machines.enrolled.size}`;
    expect(test.run({ do: "machine.enroll", machine, group: "cloud", host, from: host }).refused).toBeUndefined();
  }
  test.pass(2_000);
  for (const { id: instance, state, address } of test.harbor.state.pools.instances.values()) {
    if (state !== "launched") continue;
    test.ok({ do: "instance.spawned", instance, pid: 7 });
    test.ok({ do: "instance.announce", instance, port: address.port, pid: 7 });
    test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
  }
}

describe("a fleet", () => {
  it("orders the machines that plans have no room for, a few at a time, and says why", () => {
    const test = withFleet({ min: 5 });
    expect(orders(test)).toHaveLength(2);
    const first = test.journal.find(({ event }) => event.kind === "fleet.ordered")?.event;
    expect(first).toMatchObject({
      why: "pool sluice wants 5 more than its machines have room for, and a machine takes 2",
    });
    const [view] = machineViews(test.harbor.state, test.harbor.rules).filter(({ group }) => group === "cloud");
    expect(view).toMatchObject({
      isThere: false,
      running: 0,
      why: expect.stringMatching(/^ordered: pool sluice wants 5/),
    });
    arrive(test);
    test.pass(2_000);
    expect(orders(test)).toHaveLength(1);
    arrive(test);
    test.pass(10_000);
    expect([...test.harbor.state.machines.enrolled.keys()]).toHaveLength(3);
    expect(test.harbor.state.pools.live.get("sluice")).toBe(5);
    // That is enough: nothing more is ordered, and nothing given back.
    const before = test.journal.length;
    test.pass(120_000);
    expect(kinds(test, before)).toEqual([]);
  });

  it("gives back what nothing needs, one at a time, and keeps its minimum", () => {
    const test = withFleet({ min: 4 }, { min: 1 });
    arrive(test);
    test.pass(2_000);
    expect([...test.harbor.state.machines.enrolled.keys()]).toHaveLength(2);
    test.ok({ do: "plan.pin", pool: "sluice", instances: 0 });
    test.pass(2_000);
    for (const { id, gone } of test.harbor.state.pools.instances.values())
      if (!gone) test.run({ do: "instance.exited", instance: id, exitCode: 0, signal: null });
    test.pass(29_000);
    expect(test.harbor.state.fleets.returns.size).toBe(0);
    test.pass(4_000);
    const [machine = ""] = [...test.harbor.state.fleets.returns.keys()];
    expect(test.harbor.state.machines.closed.get(machine)?.why).toMatch(
      /^given back: nothing has run there for 3\d seconds, and no pool needs it$/,
    );
    // Still here after a minute: it is told again.
    test.pass(70_000);
    expect(kinds(test).filter((kind) => kind === "fleet.returned")).toHaveLength(2);
    test.run({ do: "machine.lose", machine, why: "it was ended" });
    test.pass(21_000);
    expect([...test.harbor.state.machines.enrolled.keys()]).toHaveLength(1);
    test.pass(300_000);
    expect([...test.harbor.state.machines.enrolled.keys()]).toHaveLength(1);
    expect(test.harbor.state.fleets.returns.size).toBe(0);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("tries again ever more seldom, one at a time, while no machine comes", () => {
    const test = withFleet({ min: 5 });
    for (const machine of orders(test)) test.run({ do: "fleet.fail", machine, why: "quota exceeded" });
    const before = test.journal.length;
    test.pass(9_000);
    expect(kinds(test, before)).toEqual([]);
    test.pass(15_000);
    expect(orders(test)).toHaveLength(1);
    // It never joins either: that is noticed after its time.
    test.pass(60_000);
    const failures = test.harbor.state.fleets.failures.get("cloud");
    expect(failures).toMatchObject({ inARow: 3, why: "it has not joined in time" });
    test.pass(45_000);
    arrive(test);
    expect(test.harbor.state.fleets.failures.size).toBe(0);
  });

  it("orders nothing for a pool whose instances do not come up", () => {
    const test = withFleet({ min: 2 });
    arrive(test);
    const before = test.journal.length;
    for (const { id } of [...test.harbor.state.pools.instances.values()])
      test.run({ do: "instance.exited", instance: id, exitCode: 3, signal: null });
    test.pass(2_000);
    expect(kinds(test, before)).toEqual([]);
  });

  it("is told again after a restart what is on order and what is to go", () => {
    const test = withFleet({ min: 2 });
    const [machine = ""] = orders(test);
    const again = Harbor.fromSnapshot(test.harbor.rules, test.harbor.snapshot());
    const stamp = { at: test.now + 1, entropy: [1, 2, 3, 4] as const };
    const { effects } = again?.execute({ do: "harbor.recover" }, stamp, () => undefined) ?? {};
    expect(effects).toContainEqual({ effect: "order-machine", machine, group: "cloud" });
  });
});
