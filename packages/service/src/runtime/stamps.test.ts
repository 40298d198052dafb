import { describe, expect, it } from "vitest";
import { stampMaker } from "./stamps.ts";

describe("stamps", () => {
  it("hold entropy that is not given out twice, also past the end of a pool", () => {
    const stamp = stampMaker(Date.now);
    const drawn = Array.from({ length: 2_000 }, () => stamp().entropy);
    expect(new Set(drawn.map((entropy) => entropy.join())).size).toBe(2_000);
    for (const word of drawn.flat()) expect(word >= 0 && word <= 0xffff_ffff && Number.isInteger(word)).toBe(true);
  });
});
