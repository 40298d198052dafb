import { describe, expect, it } from "vitest";
import { rank } from "./rank.ts";

describe("ranking", () => {
  it("puts higher scores first; ties share a rank and leave a gap", () => {
    const scores = [4, 9, 9, 1].map((score, n) => ({ of: `p_${n}`, score }));
    expect(rank(scores).map(({ of, rank: place }) => [of, place])).toEqual([
      ["p_1", 1],
      ["p_2", 1],
      ["p_0", 3],
      ["p_3", 4],
    ]);
  });
});
