import { describe, expect, it } from "vitest";
import { growthOf } from "./growth.ts";

const limits = [{ name: "memory", unit: "MiB", share: 0.1, besides: 2 }];
const samplesOf = (memory: (n: number) => number) => Array.from({ length: 90 }, (_, n) => ({ memory: memory(n) }));

describe("growth", () => {
  it("is no warming up, no single peak, and no wave", () => {
    for (const memory of [
      (n: number) => Math.min(100, 20 + 4 * n),
      (n: number) => (n === 80 ? 900 : 100),
      (n: number) => 100 + 8 * Math.sin(n / 3),
    ]) {
      expect(growthOf(samplesOf(memory), limits)).toMatchObject([{ grows: false }]);
    }
  });

  it("is what goes on and on, slowly too", () => {
    expect(
      growthOf(
        samplesOf((n) => 100 + n),
        limits,
      ),
    ).toMatchObject([{ before: 145, after: 175, grows: true }]);
  });
});
