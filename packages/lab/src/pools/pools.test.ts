import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DemandPlan, generateDemand, readDemand, recordedDemand } from "./demand.ts";
import { Machines, type PoolPolicy, playPool } from "./play-pool.ts";
import { poolComparison, poolFigures, poolReport, type RanPolicy } from "./pool-report.ts";

const plan = {
  min: 0,
  spare: 2,
  spareShare: 0,
  cooldownMs: 30_000,
  reclaimMs: 0,
  giveUpAfter: 6,
  spareIn: {},
  schedule: [],
  costPerHour: null,
};
const planned: PoolPolicy = { max: 20, plan, reuse: "any", roomsEach: 1, berths: null };
const onDemand: PoolPolicy = { max: 20, plan: null, reuse: "room", roomsEach: 1, berths: null };
const steady = Machines.parse({ bootS: { median: 8, spread: 0 }, failures: 0, pricePerHour: 3.6 });

const line = fc.record({
  at: fc.double({ min: 0, max: 900, noNaN: true }),
  holdS: fc.double({ min: 1, max: 300, noNaN: true }),
  players: fc.integer({ min: 1, max: 8 }),
});
const lines = fc.array(line, { minLength: 1, maxLength: 60 }).map((all) => all.sort((a, b) => a.at - b.at));
const policy = fc.record({
  max: fc.integer({ min: 1, max: 12 }),
  plan: fc.option(
    fc.record({
      min: fc.nat(2),
      spare: fc.nat(4),
      spareShare: fc.constantFrom(0, 0.5),
      cooldownMs: fc.constantFrom(0, 20_000),
      reclaimMs: fc.constant(0),
      giveUpAfter: fc.constant(6),
      spareIn: fc.constant({}),
      schedule: fc.constant([]),
      costPerHour: fc.constant(null),
    }),
  ),
  reuse: fc.constantFrom("room" as const, "any" as const),
  roomsEach: fc.integer({ min: 1, max: 4 }),
  berths: fc.constantFrom(null, 8, 20),
});

describe("demand played against a pool", () => {
  it("serves or refuses every room, never above the most, and counts every second once", () => {
    fc.assert(
      fc.property(policy, lines, fc.nat(1_000), (policy, demand, seed) => {
        const machines = Machines.parse({ failures: 0.1 });
        const played = playPool(policy, demand, machines, seed);
        expect(played.waits.length + played.refused).toBe(demand.length);
        expect(played.peak).toBeLessThanOrEqual(policy.max);
        for (const { waitS } of played.waits) expect(waitS).toBeGreaterThanOrEqual(0);
        expect(played.heldS).toBeLessThanOrEqual(played.instanceS + 1e-6);
        for (const [, live, held] of played.course) expect(held).toBeLessThanOrEqual(live);
        if (policy.plan === null) expect(played.retired).toBe(0);
        expect(playPool(policy, demand, machines, seed)).toEqual(played);
      }),
      { numRuns: 120 },
    );
  });

  it("has every room wait for a boot when nothing is kept ready, and none when enough is", () => {
    const demand = Array.from({ length: 10 }, (_, n) => ({ at: 20 + 40 * n, holdS: 100, players: 6 }));
    const cold = poolFigures(playPool(onDemand, demand, steady, 1), demand.length, steady);
    expect(cold).toMatchObject({ waited: { rooms: 10, players: 60 }, waitS: { p50: 8 }, freeShare: 0 });
    // Eight seconds to come up and a hundred held, each; 3.6 an hour is a thousandth a second.
    expect(cold.cost).toBeCloseTo((10 * 108) / 1_000, 6);
    const warm = poolFigures(playPool(planned, demand, steady, 1), demand.length, steady);
    expect(warm).toMatchObject({ waited: { rooms: 0 }, refused: 0 });
    expect(warm.instanceS).toBeGreaterThan(cold.instanceS);
  });

  it("puts rooms beside each other where an instance serves several, as far as its berths go", () => {
    const demand = Array.from({ length: 4 }, (_, n) => ({ at: n, holdS: 100, players: 6 }));
    const launched = (change: Partial<PoolPolicy>) =>
      playPool({ ...onDemand, roomsEach: 4, ...change }, demand, steady, 1).launched;
    expect(launched({})).toBe(1);
    expect(launched({ berths: 12 })).toBe(2);
    expect(launched({ roomsEach: 1 })).toBe(4);
    // With a plan one more for a fifth room that the rate lets expect, and the spare ones.
    const peak = (roomsEach: number) => playPool({ ...planned, roomsEach }, demand, steady, 1).peak;
    expect([peak(4), peak(1)]).toEqual([2 + plan.spare, 5 + plan.spare]);
  });

  it("says in figures and on a page of its own what policies do", () => {
    const demand = generateDemand(DemandPlan.parse({ minutes: 30, perMinute: [[0, 3]], holdS: { median: 60 } }), 7);
    const ran: RanPolicy[] = [["as configured", planned] as const, ["on <demand>", onDemand] as const].map(
      ([name, policy]) => {
        const played = playPool(policy, demand, steady, 7);
        return { name, max: policy.max, played, figures: poolFigures(played, demand.length, steady) };
      },
    );
    const rows = poolComparison(ran.map(({ figures }) => figures));
    expect(rows.find(([label]) => label === "rooms")).toEqual(["rooms", String(demand.length), String(demand.length)]);
    const page = poolReport(ran, { pool: "sluice", demand: "made", machines: "the defaults", version: "0" });
    expect(page.match(/<svg/g)).toHaveLength(3);
    expect(page).toContain("on &lt;demand&gt;");
    expect(page).not.toMatch(/<script|src="http|href="http/);
  });
});

describe("demand", () => {
  it("comes out the same from the same seed, at the rate and with the holds that were asked for", () => {
    const wanted = DemandPlan.parse({ minutes: 600, perMinute: [[0, 4]], holdS: { median: 100, spread: 0.3 } });
    const demand = generateDemand(wanted, 5);
    expect(generateDemand(wanted, 5)).toEqual(demand);
    expect(demand.length).toBeGreaterThan(2_200);
    expect(demand.length).toBeLessThan(2_600);
    const holds = demand.map(({ holdS }) => holdS).sort((a, b) => a - b);
    expect(holds[holds.length >> 1]).toBeGreaterThan(93);
    expect(holds[holds.length >> 1]).toBeLessThan(107);
  });

  it("is read line by line, in launch, and refused with its lines when it cannot be", () => {
    expect(readDemand('{"at": 9, "holdS": 3}\n\n{"at": 1, "holdS": 2, "players": 4}\n')).toEqual({
      ok: true,
      demand: [
        { at: 1, holdS: 2, players: 4 },
        { at: 9, holdS: 3, players: 1 },
      ],
    });
    const read = readDemand('{"at": 1, "holdS": 2}\nnonsense\n{"at": -1, "holdS": 2}');
    expect(read).toMatchObject({ ok: false, problem: { code: "traffic-invalid" } });
    expect(read.ok ? [] : read.problem.fields?.map(({ path }) => path)).toEqual(["line 2", "line 3"]);
  });

  it("comes out of a journal: who asked when, and how long it was held", () => {
    const event = (atMs: number, kind: string, more: object) => ({ atMs, kind, event: { instance: "i_1", ...more } });
    const match = { room: "r_1", players: [{}, {}, {}] };
    const events = [
      event(1_000, "instance.launched", { pool: "sluice", room: "r_1" }),
      event(2_000, "instance.assigned", { match }),
      // The same room once more: it holds it on.
      event(9_000, "instance.allocated", { room: "r_1" }),
      event(11_000, "instance.returned", { room: "r_1" }),
      event(15_000, "instance.allocated", { room: "r_2" }),
      event(16_500, "instance.exited", {}),
      { atMs: 3_000, kind: "instance.launched", event: { instance: "i_2", pool: "weir", room: "r_3" } },
      { atMs: 4_000, kind: "instance.exited", event: { instance: "i_2" } },
    ];
    expect(recordedDemand(events, "sluice")).toEqual([
      { at: 0, holdS: 10, players: 3 },
      { at: 14, holdS: 1.5, players: 1 },
    ]);
    expect(recordedDemand(events, "quay")).toEqual([]);
  });

  it("counts rooms that share an instance each by itself", () => {
    const event = (atMs: number, kind: string, more: object) => ({ atMs, kind, event: { instance: "i_1", ...more } });
    const events = [
      event(0, "instance.launched", { pool: "sluice", room: "r_1" }),
      event(1_000, "instance.assigned", { match: { room: "r_1", players: [{}, {}] } }),
      event(2_000, "instance.allocated", { room: "r_2" }),
      event(3_000, "instance.assigned", { match: { room: "r_2", players: [{}] } }),
      event(10_000, "instance.returned", { room: "r_1" }),
      event(12_000, "instance.exited", {}),
    ];
    expect(recordedDemand(events, "sluice")).toEqual([
      { at: 0, holdS: 10, players: 2 },
      { at: 2, holdS: 10, players: 1 },
    ]);
  });
});
