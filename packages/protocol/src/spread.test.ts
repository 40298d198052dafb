import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type SpreadPlan, spotOf, spotsOf } from "./spread.ts";

const plan = fc.record({
  shape: fc.constantFrom("ring", "grid" as const),
  places: fc.integer({ min: 1, max: 64 }),
  gap: fc.double({ min: 0.5, max: 500, noNaN: true }),
  startDegrees: fc.integer({ min: 0, max: 359 }),
}) as fc.Arbitrary<SpreadPlan>;

const apart = (a: { x: number; y: number }, b: { x: number; y: number }) => Math.hypot(a.x - b.x, a.y - b.y);

describe("a spread", () => {
  it("gives each place a spot of its own, none nearer to another than the gap", () => {
    fc.assert(
      fc.property(plan, (plan) => {
        const spots = spotsOf(plan);
        expect(spots.map(({ place }) => place)).toEqual([...Array(plan.places).keys()]);
        for (const one of spots)
          for (const other of spots)
            if (one.place < other.place) expect(apart(one, other)).toBeGreaterThan(plan.gap - 0.01);
      }),
    );
  });

  it("has neighbours of a ring at equal distances, also the last and the first", () => {
    fc.assert(
      fc.property(plan, (plan) => {
        fc.pre(plan.shape === "ring" && plan.places > 1);
        const spots = spotsOf(plan);
        for (const [n, spot] of spots.entries()) {
          expect(apart(spot, spots[(n + 1) % spots.length] ?? spot)).toBeCloseTo(plan.gap, 1);
        }
      }),
    );
  });

  it("is turned by its start angle, and has everybody look to the middle", () => {
    const ring = { shape: "ring", places: 4, gap: Math.SQRT2, startDegrees: 90 } as const;
    expect(spotsOf(ring)).toEqual([
      { place: 0, x: 0, y: 1, facingDegrees: 270 },
      { place: 1, x: -1, y: 0, facingDegrees: 0 },
      { place: 2, x: 0, y: -1, facingDegrees: 90 },
      { place: 3, x: 1, y: 0, facingDegrees: 180 },
    ]);
    const grid = spotsOf({ shape: "grid", places: 4, gap: 2, startDegrees: 0 });
    expect(grid.map(({ x, y }) => [x, y])).toEqual([
      [-1, -1],
      [1, -1],
      [-1, 1],
      [1, 1],
    ]);
    expect(spotOf(ring, 4)).toBeUndefined();
  });
});
