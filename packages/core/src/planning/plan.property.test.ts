import type { PlanRules } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { testPlan } from "../testing/rules.ts";
import { backOffMs, type Demand, GIVE_UP_AFTER, type Lower, percentile, planOf, stepOf } from "./plan.ts";

const rules = fc.record({
  min: fc.nat(8),
  spare: fc.nat(6),
  spareShare: fc.constantFrom(0, 0.1, 0.25, 1),
  cooldownMs: fc.constantFrom(0, 5_000, 60_000),
  reclaimMs: fc.constant(0),
  giveUpAfter: fc.constant(6),
  spareIn: fc.constant({}),
  schedule: fc.constant([]),
  costPerHour: fc.constant(null),
});
const demand = fc
  .record({
    held: fc.nat(20),
    roomsEach: fc.integer({ min: 1, max: 6 }),
    fullness: fc.double({ min: 0, max: 1, noNaN: true }),
    idle: fc.nat(20),
    counting: fc.nat(5),
    asking: fc.nat(5),
    ratePerS: fc.double({ min: 0, max: 3, noNaN: true }),
    bootS: fc.double({ min: 0, max: 20, noNaN: true }),
    pinned: fc.option(fc.nat(40), { freq: 5 }),
    windows: fc.constant([]),
    affordable: fc.option(fc.nat(40), { freq: 5 }),
  })
  // What is held is held by at least one room each, and by no more than it serves.
  .map(({ fullness, ...rest }) => ({
    ...rest,
    rooms: rest.held + Math.floor(fullness * rest.held * (rest.roomsEach - 1)),
  }));

describe("a plan", () => {
  it("lies between the least and the most, never below what rooms hold, and covers the need where it may", () => {
    fc.assert(
      fc.property(rules, demand, fc.integer({ min: 8, max: 60 }), (rules, demand, max) => {
        const { wanted, why, live, heldBack } = planOf(rules, max, demand);
        expect(live).toBe(demand.held + demand.idle);
        if (demand.pinned !== null) {
          expect(wanted).toBe(Math.max(demand.held, Math.min(demand.pinned, max)));
          return;
        }
        expect(wanted).toBeLessThanOrEqual(max);
        // What costs too much is not launched ahead; what rooms hold is theirs.
        const { affordable } = demand;
        if (why === "cost") expect(wanted).toBe(Math.min(max, Math.max(demand.held, affordable ?? 0)));
        expect(heldBack > 0).toBe(why === "cost");
        if (why === "cost") return;
        expect(wanted).toBeGreaterThanOrEqual(Math.min(max, rules.min));
        const rooms = Math.ceil((demand.rooms + demand.counting + demand.asking) / demand.roomsEach);
        if (why !== "max") expect(wanted).toBeGreaterThanOrEqual(Math.max(demand.held, rooms) + rules.spare);
      }),
    );
  });

  it("does not want an instance for each room where several rooms share one", () => {
    const rules = testPlan({ spare: 1 });
    const demand = {
      rooms: 2,
      roomsEach: 4,
      idle: 0,
      asking: 0,
      ratePerS: 0,
      bootS: 0,
      pinned: null,
      windows: [],
      affordable: null,
    };
    // Two rooms and two that count down fit the one that is there.
    expect(planOf(rules, 50, { ...demand, held: 1, counting: 2 }).wanted).toBe(2);
    expect(planOf(rules, 50, { ...demand, held: 1, counting: 3 }).wanted).toBe(3);
  });

  it("counts what is asked for while an instance comes up", () => {
    const rules = testPlan({ spare: 1, spareShare: 0.5 });
    const demand = {
      held: 4,
      rooms: 4,
      roomsEach: 1,
      idle: 0,
      counting: 1,
      asking: 2,
      ratePerS: 0.5,
      bootS: 7,
      pinned: null,
      windows: [],
      affordable: null,
    };
    expect(planOf(rules, 50, demand)).toMatchObject({
      spare: 2,
      meanwhile: 4,
      wanted: 4 + 1 + 2 + 4 + 2,
      why: "demand",
    });
  });

  it("wants no less when more is asked for", () => {
    fc.assert(
      fc.property(rules, demand, fc.nat(5), (rules, demand, more) => {
        const before = planOf(rules, 1_000, demand).wanted;
        for (const name of ["held", "counting", "asking"] as const) {
          const { wanted } = planOf(rules, 1_000, { ...demand, [name]: demand[name] + more });
          expect(wanted).toBeGreaterThanOrEqual(before);
        }
      }),
    );
  });
});

/** Plays a demand second by second: what is launched comes up after a while, what is retired is gone at once. */
function play(rules: PlanRules, max: number, held: readonly number[], bootS: number) {
  let live = 0;
  let lower: Lower | null = null;
  const coming: number[] = [];
  const steps: { at: number; live: number; launch: number; retire: number; held: number }[] = [];
  for (const [second, wantedHeld] of held.entries()) {
    while (coming.length > 0 && (coming[0] ?? 0) <= second) coming.shift();
    const own = Math.min(wantedHeld, live);
    const now: Demand = {
      held: own,
      rooms: own,
      roomsEach: 1,
      idle: live - own,
      counting: wantedHeld - own,
      asking: 0,
      ratePerS: 0,
      bootS,
      pinned: null,
      windows: [],
      affordable: null,
    };
    const plan = planOf(rules, max, now);
    const step = stepOf(plan, now.idle, lower, rules.cooldownMs, second * 1_000);
    lower = step.lower;
    expect(step.retire).toBeLessThanOrEqual(now.idle);
    expect(step.launch === 0 || step.retire === 0).toBe(true);
    live += step.launch - step.retire;
    for (let n = 0; n < step.launch; n++) coming.push(second + bootS);
    steps.push({ at: second, live, launch: step.launch, retire: step.retire, held: own });
    expect(live).toBeLessThanOrEqual(max);
    expect(live).toBeGreaterThanOrEqual(own);
  }
  return steps;
}

const course = fc.array(fc.nat(12), { minLength: 5, maxLength: 20 });

describe("what is done about it", () => {
  it("retires nobody whom a room holds and never runs more than the most, whatever the demand does", () => {
    fc.assert(fc.property(rules, course, (rules, held) => void play(rules, 16, held, 2)));
  });

  it("comes to rest under a constant demand, and stays there", () => {
    fc.assert(
      fc.property(rules, fc.nat(10), fc.nat(12), (rules, before, held) => {
        const seconds = 2 * Math.ceil(rules.cooldownMs / 1_000) + 20;
        const steps = play(rules, 16, [...Array(10).fill(before), ...Array(seconds).fill(held)], 2);
        const late = steps.slice(-8);
        expect(late.every(({ launch, retire }) => launch === 0 && retire === 0)).toBe(true);
      }),
    );
  });

  it("grows within one look, and shrinks after the settling time and not before", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 10 }), fc.constantFrom(5, 30), (held, cooldownS) => {
        const rules = testPlan({ spare: 1, cooldownMs: cooldownS * 1_000 });
        const steps = play(rules, 16, [...Array(5).fill(held), ...Array(cooldownS + 10).fill(0)], 2);
        expect(steps[0]?.live).toBe(held + 1);
        const shrunkAt = steps.find(({ retire }) => retire > 0)?.at ?? 0;
        expect(shrunkAt).toBe(5 + cooldownS);
        expect(steps.at(-1)?.live).toBe(1);
      }),
    );
  });

  it("keeps what was needed again during the settling time", () => {
    const rules = testPlan({ cooldownMs: 10_000 });
    const held = [...Array(3).fill(8), ...Array(4).fill(2), ...Array(2).fill(5), ...Array(30).fill(2)];
    const steps = play(rules, 16, held, 1);
    const shrinks = steps.filter(({ retire }) => retire > 0).map(({ live }) => live);
    expect(shrinks[0]).toBe(5);
    expect(steps.at(-1)?.live).toBe(2);
  });
});

describe("what was measured", () => {
  it("is told by the nearest rank, which somebody has really had", () => {
    expect(percentile([], 0.9)).toBe(0);
    expect(percentile([5, 1, 2, 3, 4, 9, 8, 7, 6, 10], 0.9)).toBe(9);
    fc.assert(
      fc.property(fc.array(fc.nat(1_000), { minLength: 1 }), (values) => {
        const at = percentile(values, 0.9);
        expect(values).toContain(at);
        expect(values.filter((value) => value <= at).length).toBeGreaterThanOrEqual(Math.ceil(0.9 * values.length));
      }),
    );
  });

  it("makes failures wait longer each time, and then for somebody to look", () => {
    const waits = Array.from({ length: GIVE_UP_AFTER }, (_, n) => backOffMs(n));
    expect(waits).toEqual([0, 1_000, 2_000, 4_000, 8_000, 16_000]);
    expect(backOffMs(GIVE_UP_AFTER)).toBeNull();
  });
});
