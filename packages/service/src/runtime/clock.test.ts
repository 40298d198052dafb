import { describe, expect, it } from "vitest";
import { harborClock } from "./clock.ts";

/** A computer's two clocks, in the test's hand. */
function clocks(wall = 1_000_000) {
  const time = { wall, steady: 50 };
  const sources = { wallMs: () => time.wall, steadyMs: () => time.steady };
  const pass = (ms: number) => {
    time.wall += ms;
    time.steady += ms;
  };
  const jump = (ms: number) => {
    time.wall += ms;
  };
  return { sources, pass, jump };
}

describe("the harbor's clock", () => {
  it("is the wall clock while nobody touches that", () => {
    const { sources, pass } = clocks();
    const now = harborClock(0, sources);
    pass(1_234);
    expect(now()).toBe(1_001_234);
    pass(0.4);
    expect(now()).toBe(1_001_234);
  });

  it("neither leaps nor stands still when the wall clock is set, and comes near it at half its pace", () => {
    const { sources, pass, jump } = clocks();
    const now = harborClock(0, sources);
    jump(3_600_000);
    expect(now()).toBe(1_000_000);
    pass(1_000);
    expect(now()).toBe(1_001_500);
    jump(-7_200_000);
    pass(1_000);
    expect(now()).toBe(1_002_000);
    // An hour behind is made good in two.
    pass(4 * 3_600_000);
    expect(now()).toBe(sources.wallMs());
  });

  it("goes on from the journal's last event when the wall clock is behind that", () => {
    const { sources, pass } = clocks();
    const now = harborClock(1_060_000, sources);
    expect(now()).toBe(1_060_000);
    pass(1_000);
    expect(now()).toBe(1_060_500);
    pass(200_000);
    expect(now()).toBe(sources.wallMs());
  });
});
