import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Canary } from "../model/builds/state.ts";
import { isTurnOfCanary, shareOf, verdictOn } from "./roll-out.ts";

const canary = (change: Partial<Canary> = {}): Canary => ({
  version: "2",
  steps: [0.1, 0.5, 1],
  enough: 5,
  maxFailures: 0.2,
  step: 0,
  launched: 0,
  othersLaunched: 0,
  successes: 0,
  failed: 0,
  ...change,
});

describe("a roll-out", () => {
  it("gives the new version its share of what is launched, to within one instance at any time", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 1, noNaN: true }),
        fc.integer({ min: 1, max: 300 }),
        (share, launches) => {
          const one = canary({ steps: [share] });
          for (let n = 1; n <= launches; n++) {
            if (isTurnOfCanary(one)) one.launched += 1;
            else one.othersLaunched += 1;
            expect(Math.abs(one.launched - share * n)).toBeLessThanOrEqual(1);
          }
        },
      ),
    );
  });

  it("never goes on with more failures than its limit, nor back with fewer", () => {
    const counts = fc.record({
      successes: fc.nat(50),
      failed: fc.nat(50),
      enough: fc.integer({ min: 1, max: 20 }),
      maxFailures: fc.constantFrom(0, 0.1, 0.2, 0.5),
      step: fc.nat(2),
    });
    fc.assert(
      fc.property(counts, (change) => {
        const one = canary(change);
        const verdict = verdictOn(one);
        const tried = Math.max(one.enough, one.successes + one.failed);
        expect(verdict.do === "roll-back").toBe(one.failed > one.maxFailures * tried);
        if (verdict.do === "step" || verdict.do === "promote") {
          expect(one.successes).toBeGreaterThanOrEqual(one.enough);
          expect(verdict.do === "promote").toBe(one.step === 2);
        }
        if (verdict.do === "step") expect(verdict.share).toBeGreaterThan(shareOf(one));
      }),
    );
  });

  it("goes back on as many failures as the limit lets through of enough, before enough was seen", () => {
    expect(verdictOn(canary({ failed: 1 })).do).toBe("wait");
    expect(verdictOn(canary({ failed: 2 }))).toMatchObject({
      do: "roll-back",
      why: "2 of 2 failed at 10 %; more than 20 % of 5 is too many",
    });
    expect(verdictOn(canary({ failed: 1, maxFailures: 0 })).do).toBe("roll-back");
  });
});
