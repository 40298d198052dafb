import { describe, expect, it } from "vitest";
import { LatencyMeter } from "./latency.ts";

describe("latency", () => {
  it("is told after three round trips, smoothed, with the mean deviation as jitter", () => {
    const meter = new LatencyMeter();
    expect(meter.take(40, 0)).toBeUndefined();
    expect(meter.take(40, 100)).toBeUndefined();
    // 40 + (80 - 40) / 8; deviation 20, then 15, then 15 + (40 - 15) / 4.
    expect(meter.take(80, 200)).toEqual({ latencyMs: 45, jitterMs: 21.3 });
  });

  it("is told again only when it has changed by enough, and not too often", () => {
    const meter = new LatencyMeter();
    for (const atMs of [0, 1, 2]) meter.take(40, atMs);
    expect(meter.take(41, 60_000)).toBeUndefined();
    let told: unknown;
    for (let n = 0; n < 20 && told === undefined; n++) told = meter.take(100, 61_000 + n * 100);
    expect(told).toMatchObject({ latencyMs: expect.any(Number) });
    for (let n = 0; n < 10; n++) expect(meter.take(400, 61_500 + n)).toBeUndefined();
  });

  it("comes close to a steady way and forgets one outlier", () => {
    const meter = new LatencyMeter();
    let last = { latencyMs: 0, jitterMs: 0 };
    for (let n = 0; n < 200; n++) last = meter.take(n === 50 ? 2_000 : 30 + (n % 3), n * 2_000) ?? last;
    expect(last.latencyMs).toBeGreaterThan(25);
    expect(last.latencyMs).toBeLessThan(60);
  });
});
