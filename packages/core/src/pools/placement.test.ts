import type { BuildSpec, MachineRules, PoolRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import type { HarborRules } from "../model/rules.ts";
import { testMachine, testRules, testSpec } from "../testing/rules.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

/** Rules whose pools run on these machines. */
function rulesOn(machines: Readonly<Record<string, MachineRules>>, change: Partial<PoolRules> = {}): HarborRules {
  const rules = testRules();
  const pools = [...rules.pools].map(
    ([id, pool]) =>
      [
        id,
        { ...pool, machines: Object.keys(machines), max: 50, ports: { from: 7_000, to: 7_499 }, ...change },
      ] as const,
  );
  return { ...rules, pools: new Map(pools), machines: new Map(Object.entries(machines)) };
}

const on = (
  machines: Readonly<Record<string, MachineRules>>,
  change: Partial<PoolRules> = {},
  spec: Partial<BuildSpec> = {},
) => new TestHarbor(rulesOn(machines, change), testSpec(spec));

/** Launches so many, one after the other, and tells on which machines. */
function launched(test: TestHarbor, many: number): string[] {
  const before = new Set(test.harbor.state.pools.instances.keys());
  for (let n = 0; n < many; n++) test.run({ do: "pool.launch-ahead", pool: "sluice", why: "wanted" });
  return [...test.harbor.state.pools.instances.values()]
    .filter(({ id }) => !before.has(id))
    .map(({ machine }) => machine);
}

const newest = (test: TestHarbor) => [...test.harbor.state.pools.instances.values()].at(-1);

describe("the machine of an instance", () => {
  it("is the one with the most that is free, or the fullest that has room", () => {
    const machines = { small: testMachine({ max: 2 }), large: testMachine({ max: 8 }) };
    expect(launched(on(machines), 10)).toEqual([
      ...["small", "large", "large", "large", "large", "small", "large", "large", "large", "large"],
    ]);
    expect(launched(on(machines, { placement: { by: "pack", apart: false } }), 4)).toEqual([
      ...["small", "small", "large", "large"],
    ]);
  });

  it("has the CPUs and the memory that its build needs, and gives them back when it ends", () => {
    const machines = {
      east: testMachine({ cpus: 2, memoryMb: 4_096 }),
      west: testMachine({ cpus: 1, memoryMb: 8_192 }),
    };
    const test = on(machines, {}, { needs: { cpus: 0.75, memoryMb: 1_024 } });
    expect(launched(test, 5)).toEqual(["east", "west", "east"]);
    expect(test.refusal({ do: "pool.launch-ahead", pool: "sluice", why: "wanted" }).detail).toBe(
      "No machine takes one more: east has 0.5 of 2 CPUs free, and 0.75 are needed; west has 0.25 of 1 CPUs free, and 0.75 are needed.",
    );
    const [first] = [...test.harbor.state.pools.instances.values()];
    test.ok({ do: "instance.exited", instance: first?.id ?? "", exitCode: 0, signal: null });
    expect(launched(test, 2)).toEqual(["east"]);
  });

  it("goes by what machines report of themselves, which is written down when it makes a difference", () => {
    const machines = { east: testMachine(), west: testMachine() };
    const test = on(machines, {}, { needs: { memoryMb: 2_000 } });
    const tell = (machine: string, load: number, memoryFreeMb: number) =>
      test.run({ do: "machine.measure", machine, measure: { cpus: 4, memoryMb: 8_000, load, memoryFreeMb } });
    tell("east", 0.9, 7_000);
    tell("west", 0.1, 7_000);
    expect(launched(test, 1)).toEqual(["west"]);
    const before = test.journal.length;
    tell("west", 0.11, 6_990);
    expect(test.journal.length).toBe(before);
    tell("west", 0.1, 900);
    expect(launched(test, 1)).toEqual(["east"]);
    expect(newest(test)?.placed).toBe(
      "east: the most free, 100 of 100 places, 4 of 4 CPUs, 8000 of 8000 MiB, load 90 %; not west (reports 900 MiB of memory free, and 2000 are needed)",
    );
  });

  it("is another one for each of the same build where they are kept apart, and none that may be taken away while there is another", () => {
    const machines = {
      a: testMachine({ max: 50 }),
      b: testMachine({ max: 4 }),
      c: testMachine({ max: 4, preemptible: true }),
    };
    const placement = { by: "pack", apart: true } as const;
    const test = on(machines, { placement });
    expect(launched(test, 6).sort()).toEqual(["a", "a", "a", "b", "b", "b"]);
    expect(newest(test)?.placed).toMatch(
      /^[ab]: 2 of the same build there, .*; not [ab] \(.*\), c \(may be taken away\)$/,
    );
  });

  it("is looked for on hosts where ports are free", () => {
    const machines = { east: testMachine({ host: "10.0.0.1" }), west: testMachine({ host: "10.0.0.2" }) };
    const test = on(machines, { ports: { from: 7_000, to: 7_001 } });
    expect(launched(test, 5).sort()).toEqual(["east", "east", "west", "west"]);
    expect(test.refusal({ do: "pool.launch-ahead", pool: "sluice", why: "wanted" }).detail).toMatch(
      /^Pool sluice has no free port between 7000 and 7001 on 10\.0\.0\.[12]\.$/,
    );
  });

  it("is no cordoned one, and one that drains is emptied: at once of what is idle, later of what plays", () => {
    const test = on({ east: testMachine(), west: testMachine() });
    const set = (machine: string, mode: "open" | "cordoned" | "draining", withinMs?: number) =>
      test.ok({ do: "machine.set-mode", machine, mode, withinMs, reason: "new kernel" });
    set("east", "cordoned");
    expect(launched(test, 2)).toEqual(["west", "west"]);
    expect(newest(test)?.placed).toContain("not east (is cordoned)");
    set("east", "open");
    expect(launched(test, 1)).toEqual(["east"]);
    const [first] = [...test.harbor.state.pools.instances.values()];
    set("west", "draining", 60_000);
    expect(test.instance(first?.id ?? "")).toMatchObject({
      state: "draining",
      stopping: true,
      why: "asked to stop: machine west is being drained by an operator: new kernel",
    });
    set("east", "cordoned");
    expect(test.refusal({ do: "pool.launch-ahead", pool: "sluice", why: "wanted" }).detail).toBe(
      "No machine takes one more: east is cordoned; west is draining.",
    );
    expect(
      test.refusal({ do: "machine.set-mode", machine: "north", mode: "open", withinMs: undefined, reason: undefined }),
    ).toMatchObject({
      code: "machine-unknown",
      detail: "There is no machine north; there are east, west.",
    });
  });

  it("is told with a few of the others, however many there are", () => {
    const machines = Object.fromEntries(Array.from({ length: 40 }, (_, n) => [`m${n}`, testMachine()]));
    const test = on(machines);
    launched(test, 1);
    expect(newest(test)?.placed).toMatch(/and 35 more$/);
  });
});
