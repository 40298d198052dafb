import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { RatingRules } from "../model/ratings/rules.ts";
import { testRating } from "../testing/rules.ts";
import { DEVIATION_MAX, expectedScore, idle, rated } from "./glicko.ts";
import { ratedSides, unrated } from "./sides.ts";

const known = { rating: 1_500, deviation: 200, volatility: 0.06 };
const method = { tau: 0.5, periods: 1 };

describe("a rating", () => {
  it("is what the paper's example says", () => {
    const after = rated(
      known,
      [
        { rating: 1_400, deviation: 30, score: 1 },
        { rating: 1_550, deviation: 100, score: 0 },
        { rating: 1_700, deviation: 300, score: 0 },
      ],
      method,
    );
    expect(after.rating).toBeCloseTo(1_464.06, 1);
    expect(after.deviation).toBeCloseTo(151.52, 1);
    expect(after.volatility).toBeCloseTo(0.05999, 4);
  });

  it("is less certain the longer nobody plays, and never less than of somebody new", () => {
    expect(idle(known, 1)).toBeCloseTo(Math.sqrt(200 ** 2 + (0.06 * 173.7178) ** 2), 6);
    expect(idle(known, 1e9)).toBe(DEVIATION_MAX);
    expect(rated(known, [], { tau: 0.5, periods: 1e9 }).deviation).toBe(DEVIATION_MAX);
  });

  it("rises with a win, falls with a loss, grows more certain with either, and stays a number", () => {
    const one = fc.record({
      rating: fc.double({ min: -2_000, max: 6_000, noNaN: true }),
      deviation: fc.double({ min: 20, max: 350, noNaN: true }),
    });
    fc.assert(
      fc.property(one, one, fc.double({ min: 0.01, max: 0.5, noNaN: true }), (own, other, volatility) => {
        const of = (score: number) => rated({ ...own, volatility }, [{ ...other, score }], { tau: 0.5, periods: 0 });
        const [won, lost] = [of(1), of(0)];
        expect(won.rating).toBeGreaterThanOrEqual(own.rating - 1e-9);
        expect(lost.rating).toBeLessThanOrEqual(own.rating + 1e-9);
        for (const { rating, deviation, volatility: after } of [won, lost]) {
          expect(Number.isFinite(rating) && Number.isFinite(after) && after > 0).toBe(true);
          expect(deviation).toBeLessThanOrEqual(own.deviation + 1e-9);
        }
        expect(expectedScore(own.rating, other)).toBeGreaterThanOrEqual(0);
      }),
      { numRuns: 300 },
    );
  });
});

describe("sides of several", () => {
  const rules: RatingRules = testRating;
  const player = (rating: number, deviation: number, left = false) => ({
    before: { ...unrated(rules), rating, deviation, atMs: 0 },
    left,
  });

  it("of one each are rated as the paper rates one against one", () => {
    const sides = [
      { players: [player(1_500, 200)], rank: 1 },
      { players: [player(1_400, 30)], rank: 2 },
    ];
    const [[winner] = []] = ratedSides(rules, sides, 0);
    const plain = rated(known, [{ rating: 1_400, deviation: 30, score: 1 }], { tau: 0.5, periods: 0 });
    expect(winner?.rating).toBeCloseTo(plain.rating, 1);
    expect(winner).toMatchObject({ matches: 1, atMs: 0 });
  });

  it("change those most of whom least is known, and a leaver loses with the winners", () => {
    const sides = [
      { players: [player(1_500, 300), player(1_500, 50), player(1_500, 300, true)], rank: 1 },
      { players: [player(1_500, 100), player(1_500, 100), player(1_500, 100)], rank: 2 },
    ];
    const [[unsure, sure, leaver] = []] = ratedSides(rules, sides, 0);
    expect(unsure?.rating).toBeGreaterThan((sure?.rating ?? 0) + 20);
    expect(sure?.rating).toBeGreaterThan(1_500);
    expect(leaver?.rating).toBeLessThan(1_450);
    const [[, , kept] = []] = ratedSides({ ...rules, leavers: "as-side" }, sides, 0);
    expect(kept?.rating).toBe(unsure?.rating);
  });

  it("that draw move towards each other", () => {
    const sides = [
      { players: [player(1_700, 100)], rank: 1 },
      { players: [player(1_500, 100)], rank: 1 },
    ];
    const [[high] = [], [low] = []] = ratedSides(rules, sides, 0);
    expect(high?.rating).toBeLessThan(1_700);
    expect(low?.rating).toBeGreaterThan(1_500);
  });
});
