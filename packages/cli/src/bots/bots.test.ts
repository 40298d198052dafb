import { describe, expect, it } from "vitest";
import { loadAboard } from "./aboard.ts";
import { randomFrom } from "./chance.ts";
import { count, newTally, tallyLines } from "./tally.ts";

describe("the choices of bots", () => {
  it("come out the same from the same seed, spread over their whole range", () => {
    const draw = (seed: number) => Array.from({ length: 1_000 }, randomFrom(seed));
    expect(draw(4)).toEqual(draw(4));
    expect(draw(4)).not.toEqual(draw(5));
    const tenths = new Set(draw(4).map((value) => Math.floor(value * 10)));
    expect([...tenths].sort((a, b) => a - b)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
  });
});

describe("the tally of bots", () => {
  it("says what came of it in lines, the most frequent refusal first", () => {
    const tally = newTally();
    tally.hellos = 3;
    for (const code of ["room-full", "room-started", "room-started"]) count(tally.refused, code);
    const lines = tallyLines(tally);
    expect(lines[0]).toBe("players   0 connected, 3 hellos, 0 goodbyes, 0 gone without one");
    expect(lines).toContain("refused   room-started 2, room-full 1");
    expect(lines.at(-1)).toBe("faults    none");
  });
});

describe("the way aboard", () => {
  it("is refused when there is no such module, or when it exports no goAboard", async () => {
    await expect(loadAboard("/nowhere/at-all.mjs")).rejects.toMatchObject({ code: "usage" });
    const other = new URL("./tally.ts", import.meta.url).pathname;
    await expect(loadAboard(other)).rejects.toThrow(/exports no such function/);
  });
});
