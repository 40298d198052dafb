import { describe, expect, it } from "vitest";
import { pauseMs } from "./back-off.ts";

describe("the pause before coming back", () => {
  const backOff = { firstMs: 200, maxMs: 5_000 };
  it("doubles up to the longest, spread by chance", () => {
    expect([1, 2, 3, 10].map((attempt) => pauseMs(attempt, backOff, () => 1))).toEqual([200, 400, 800, 5_000]);
    expect(pauseMs(3, backOff, () => 0)).toBe(200);
  });
});
