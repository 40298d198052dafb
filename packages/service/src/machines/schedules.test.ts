import { describe, expect, it } from "vitest";
import { scheduleFaults, windowsOf } from "./schedules.ts";

const HOUR = 3_600_000;

const entry = (when: string, more: object = {}) => ({
  when,
  timeZone: "UTC",
  lastsMs: 4 * HOUR,
  min: 10,
  spare: 0,
  ...more,
});

describe("a schedule", () => {
  it("tells the time that is on, or else the next", () => {
    const at = Date.parse("2026-11-27T19:30:00Z");
    const [on, next] = windowsOf([entry("0 18 * * 5,6"), entry("0 6 * * *", { lastsMs: HOUR, spare: 3 })], at);
    expect(on).toMatchObject({ id: "schedule-1", min: 10, why: "schedule 0 18 * * 5,6 (UTC)" });
    expect([on, next].map((one) => new Date(one?.fromMs ?? 0).toISOString())).toEqual([
      ...["2026-11-27T18:00:00.000Z", "2026-11-28T06:00:00.000Z"],
    ]);
    expect((on?.untilMs ?? 0) - (on?.fromMs ?? 0)).toBe(4 * HOUR);
    // One that has just ended is not on.
    const [after] = windowsOf([entry("0 18 * * 5")], Date.parse("2026-11-27T22:00:00Z"));
    expect(new Date(after?.fromMs ?? 0).toISOString()).toBe("2026-12-04T18:00:00.000Z");
  });

  it("follows the clocks of its zone when they are changed", () => {
    const evening = entry("0 18 * * *", { timeZone: "Europe/Berlin" });
    const from = (at: string) => new Date(windowsOf([evening], Date.parse(at))[0]?.fromMs ?? 0).toISOString();
    expect(from("2026-10-24T12:00:00Z")).toBe("2026-10-24T16:00:00.000Z");
    expect(from("2026-10-25T12:00:00Z")).toBe("2026-10-25T17:00:00.000Z");
  });

  it.each([
    ["18 * * *", "UTC", "when"],
    ["0 25 * * *", "UTC", "when"],
    ["every evening", "UTC", "when"],
    ["0 0 31 2 *", "UTC", "when"],
    ["*/10 * * * * *", "UTC", "when"],
    ["0 18 * * *", "Europe/Atlantis", "timeZone"],
  ])("%s in %s is none", (when, timeZone, part) => {
    expect(scheduleFaults(entry(when, { timeZone })).map((fault) => fault.part)).toEqual([part]);
  });

  it("takes what people write", () => {
    for (const when of ["0 18 * * 5,6", "30 7-9 * * MON-FRI", "*/15 * 1 JAN,JUL *"])
      expect(scheduleFaults(entry(when))).toEqual([]);
  });
});
