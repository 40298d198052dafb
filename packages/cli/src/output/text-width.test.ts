import pc from "picocolors";
import { describe, expect, it } from "vitest";
import { textWidth } from "./text-width.ts";

describe("the width of a text in a terminal", () => {
  it("counts wide characters twice, and marks, joiners and colours not at all", () => {
    const widths = {
      "": 0,
      Brisa: 5,
      ナギサ: 6,
      한국: 4,
      "e\u0301": 1,
      Zoë: 3,
      "👩‍🚀": 2,
      "❤️": 2,
      "🇨🇭": 2,
      "a\u200bb": 2,
      "…": 1,
    };
    for (const [text, width] of Object.entries(widths))
      expect({ text, width: textWidth(text) }).toEqual({ text, width });
    expect(textWidth(pc.createColors(true).red("red"))).toBe(3);
  });
});
