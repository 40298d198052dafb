import { stripVTControlCharacters } from "node:util";
import { describe, expect, it } from "vitest";
import { cut, table } from "./table.ts";
import { duration, when } from "./time.ts";

const bare = (lines: string[]) => lines.map(stripVTControlCharacters);

describe("a table", () => {
  const columns = [
    { heading: "NAME", value: (row: { name: string; score: number }) => row.name },
    { heading: "SCORE", value: (row: { name: string; score: number }) => String(row.score), align: "right" as const },
  ];

  it("is aligned by what is seen, wide characters included", () => {
    expect(
      bare(
        table(
          [
            { name: "ナギサ", score: 7 },
            { name: "Brisa", score: 120 },
          ],
          columns,
          80,
        ),
      ),
    ).toEqual(["NAME    SCORE", "ナギサ      7", "Brisa     120"]);
  });

  it("is cut to the window with a sign that it was", () => {
    expect(bare(table([{ name: "a very long name indeed", score: 1 }], columns, 12))[1]).toBe("a very long…");
    expect(cut("short", 12)).toBe("short");
  });
});

describe("times", () => {
  it("are relative unless asked for as dates", () => {
    expect(when(1_000, 5_000, false)).toBe("4 s ago");
    expect(when(65_000, 5_000, false)).toBe("in 60 s");
    expect(when(0, 0, true)).toBe("1970-01-01T00:00:00.000Z");
    expect([3_000, 600_000, 9_000_000, 400_000_000].map(duration)).toEqual(["3 s", "10 min", "3 h", "5 d"]);
  });
});
