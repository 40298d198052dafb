import { describe, expect, it } from "vitest";
import { RefusedLately } from "./refused-lately.ts";

const refused = (code: "room-full" | "room-unknown", detail = "no") => ({ code, detail });

describe("what was refused lately", () => {
  it("is kept for an hour, eight for each, and no more players than it may", () => {
    const lately = new RefusedLately();
    for (let n = 0; n < 20; n++) lately.note("p_a", `ask-${n}`, refused("room-full"), n);
    expect(lately.of("p_a", 20).map(({ ask }) => ask)).toEqual([19, 18, 17, 16, 15, 14, 13, 12].map((n) => `ask-${n}`));
    expect(lately.of("p_a", 3_600_019)).toEqual([]);
    for (let n = 0; n < 5_001; n++) lately.note(`p_${n}`, "room.join", refused("room-unknown"), 30);
    expect(lately.of("p_a", 30)).toEqual([]);
    expect(lately.of("p_0", 30)).toEqual([]);
    expect(lately.of("p_5000", 30)).toHaveLength(1);
  });

  it("counts the same again as one, and cuts what is long", () => {
    const lately = new RefusedLately();
    lately.note("p_a", "room.join", refused("room-unknown"), 1);
    for (let n = 2; n < 9; n++) lately.note("p_a", "room.join", refused("room-full", "x".repeat(900)), n);
    expect(lately.of("p_a", 9).map(({ code, times, detail }) => [code, times, detail.length])).toEqual([
      ["room-full", 7, 300],
      ["room-unknown", 1, 2],
    ]);
  });
});
