import { describe, expect, it } from "vitest";
import { median, type Row, runRow } from "./row.ts";

const row = (change: Partial<Row>, ours: number[], ceiling: number[]): Row => ({
  name: "r",
  about: "",
  unit: "x",
  goal: 0.5,
  higherIsBetter: true,
  rounds: ours.length,
  prepare: async () => ({
    ours: async () => ours.shift() ?? 0,
    ceiling: async () => ceiling.shift() ?? 0,
    whereTheTimeGoes: () => "somewhere",
    end: async () => undefined,
  }),
  ...change,
});

describe("a benchmark row", () => {
  it("compares medians and says whether the goal holds", async () => {
    const result = await runRow(row({}, [60, 10, 70], [100, 100, 900]), () => undefined);
    expect(result).toMatchObject({
      ours: 60,
      ceiling: 100,
      ratio: 0.6,
      holds: true,
      spread: { ours: [10, 70], ceiling: [100, 900] },
    });
  });
  it("that misses its goal says where the time goes", async () => {
    expect(await runRow(row({ goal: 8, higherIsBetter: false }, [900], [100]), () => undefined)).toMatchObject({
      holds: false,
      note: "somewhere",
    });
  });
  it("takes the middle of an even number", () => expect(median([4, 1, 3, 2])).toBe(2.5));
});
