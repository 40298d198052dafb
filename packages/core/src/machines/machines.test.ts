import type { MachineGroupRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import { testMachine, testRules } from "../testing/rules.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { machineViews } from "./view.ts";

const FORGET_MS = 60_000;

function withGroup(change: Partial<MachineGroupRules> = {}): TestHarbor {
  const { driver: _, host: __, ...alike } = testMachine({ region: "north", max: 2 });
  const spot = { ...alike, limit: 2, forgetMs: FORGET_MS, fleet: null, ...change };
  const rules = testRules();
  const pools = [...rules.pools].map(([id, pool]) => [id, { ...pool, machines: ["spot"], max: 10 }] as const);
  return new TestHarbor({ ...rules, pools: new Map(pools), machineGroups: new Map([["spot", spot]]) });
}

const enroll = (test: TestHarbor, machine: string, host = "10.0.0.1") =>
  test.run({ do: "machine.enroll", machine, group: "spot", host, from: host }).refused?.code;

const ahead = (test: TestHarbor) =>
  test.run({ do: "pool.launch-ahead", pool: "sluice", why: "wanted" }).refused?.detail;

const placed = (test: TestHarbor) =>
  [...test.harbor.state.pools.instances.values()].map(({ machine, address }) => `${machine} ${address.host}`);

describe("a group of machines", () => {
  it("has no machine until one joins, and then each at its own host, up to its limit", () => {
    const test = withGroup();
    expect(ahead(test)).toBe("None of its machines is known.");
    expect(enroll(test, "spot-a", "10.0.0.1")).toBeUndefined();
    expect(enroll(test, "spot-b", "10.0.0.2")).toBeUndefined();
    for (let n = 0; n < 4; n++) expect(ahead(test)).toBeUndefined();
    expect(placed(test).sort()).toEqual(["spot-a 10.0.0.1", "spot-a 10.0.0.1", "spot-b 10.0.0.2", "spot-b 10.0.0.2"]);
    expect(ahead(test)).toContain("spot-a runs 2 of the 2 instances it may");
    expect(enroll(test, "spot-c")).toBe("machine-group-full");
    expect(machineViews(test.harbor.state, test.harbor.rules).find(({ id }) => id === "spot-a")).toMatchObject({
      ...{ driver: "agent", group: "spot", region: "north", host: "10.0.0.1", isThere: true, running: 2 },
    });
  });

  it("lets nobody take a name that has joined, nor one of the configuration, nor join what is none", () => {
    const test = withGroup();
    enroll(test, "spot-a");
    expect(enroll(test, "spot-a")).toBe("machine-known");
    expect(enroll(test, "here")).toBe("machine-known");
    const other = { do: "machine.enroll", machine: "x-a", group: "x", host: "10.0.0.1", from: "10.0.0.1" } as const;
    expect(test.refusal(other).detail).toBe("There is no group of machines x; there are spot.");
    // One that was restarted comes as any other does.
    test.run({ do: "machine.lose", machine: "spot-a", why: "gone" });
    expect(test.run({ do: "machine.join", machine: "spot-a", from: "10.0.0.1" }).refused).toBeUndefined();
  });

  it("forgets one that is away for long, when nothing of it is heard; what ran there has ended with it", () => {
    const test = withGroup();
    enroll(test, "spot-a");
    ahead(test);
    const [one] = [...test.harbor.state.pools.instances.values()];
    const instance = one?.id ?? "";
    test.ok({ do: "instance.spawned", instance, pid: 7 });
    test.ok({ do: "instance.announce", instance, port: one?.address.port ?? 0, pid: 7 });
    test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
    test.run({ do: "machine.lose", machine: "spot-a", why: "its agent's connection is gone" });
    // Only the way to the agent may be cut: its instance goes on.
    test.pass(3 * FORGET_MS);
    expect(test.harbor.state.machines.enrolled.has("spot-a")).toBe(true);
    test.run({ do: "instance.silent", instance, detail: "no poll for 15 s" });
    test.pass(FORGET_MS);
    expect(test.harbor.state.machines.enrolled.has("spot-a")).toBe(false);
    expect(test.harbor.state.pools.instances.get(instance)?.gone ?? true).toBe(true);
    expect(test.harbor.state.pools.onMachine.get("spot-a") ?? 0).toBe(0);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
    // Its name is free again.
    expect(enroll(test, "spot-a")).toBeUndefined();
  });

  it("is known again after a restart, with all that it forgot and all that it did not", () => {
    const test = withGroup();
    enroll(test, "spot-a", "10.0.0.9");
    test.run({ do: "machine.lose", machine: "spot-a", why: "gone" });
    const again = Harbor.fromSnapshot(test.harbor.rules, test.harbor.snapshot());
    expect(again?.state.machines.enrolled.get("spot-a")?.host).toBe("10.0.0.9");
    expect(again?.nextDeadlineAt()).toBe(test.harbor.nextDeadlineAt());
  });

  it("lets operators remove what is away alone", () => {
    const test = withGroup();
    enroll(test, "spot-a");
    const remove = (machine: string) => test.run({ do: "machine.remove", machine }).refused?.detail;
    expect(remove("spot-a")).toBe("The agent of spot-a is connected; drain it, and stop its agent first.");
    expect(remove("here")).toContain("here is of the configuration");
    expect(remove("spot-z")).toBe("No machine spot-z has joined a group; there are spot-a.");
    test.run({ do: "machine.lose", machine: "spot-a", why: "gone" });
    expect(remove("spot-a")).toBeUndefined();
    expect(test.harbor.state.machines.enrolled.size).toBe(0);
  });
});
