import { describe, expect, it } from "vitest";
import { stampMaker } from "./stamps.ts";

describe("stamps", () => {
  it("never go back in time, whatever the clock does", () => {
    const clock = [5_000, 4_000, 5_500, 1];
    const stamp = stampMaker(() => clock.shift() ?? 0);
    expect([stamp(), stamp(), stamp(), stamp()].map(({ at }) => at)).toEqual([5_000, 5_000, 5_500, 5_500]);
  });

  it("hold entropy that is not given out twice, also past the end of a pool", () => {
    const stamp = stampMaker();
    const drawn = Array.from({ length: 2_000 }, () => stamp().entropy);
    expect(new Set(drawn.map((entropy) => entropy.join())).size).toBe(2_000);
    for (const word of drawn.flat()) expect(word >= 0 && word <= 0xffff_ffff && Number.isInteger(word)).toBe(true);
  });
});
