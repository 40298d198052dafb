import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { RoomCode } from "./ids.ts";
import { CODE_ALPHABET } from "./limits.ts";
import { problemCodes, problemTable } from "./problems.ts";
import { DisplayName, visibleLength } from "./text.ts";

const taken = (name: unknown) => DisplayName.safeParse(name).data;

describe("a display name", () => {
  it("is trimmed and brought into one form", () => {
    expect(taken("  Brisa\t")).toBe("Brisa");
    expect(taken("Zoe\u0308")).toBe("Zoë");
  });

  it("has 1 to 32 characters as a reader counts them", () => {
    expect(taken("x".repeat(32))).toBe("x".repeat(32));
    expect(taken("x".repeat(33))).toBeUndefined();
    const family = "👩‍👩‍👧‍👦";
    expect(visibleLength(family)).toBe(1);
    expect(taken(family.repeat(6))).toBe(family.repeat(6));
  });

  it("has at most 160 bytes, however few characters those are", () => {
    expect(taken("ナ".repeat(32))).toBe("ナ".repeat(32));
    // One family is 25 bytes.
    expect(taken("👩‍👩‍👧‍👦".repeat(7))).toBeUndefined();
  });

  it.each([
    "",
    "   ",
    "\u200b",
    "\u200d\u200d",
    "\u3164",
    "a\u0000b",
    "a\nb",
    "a\u202eb",
    "a\u2066b",
    "a\ufeffb",
    "\ud800",
    "\ue000x",
    7,
    null,
    {},
  ])("is not %j", (name) => expect(taken(name)).toBeUndefined());

  it("once taken is taken again unchanged", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", maxLength: 40 }), (typed) => {
        const once = taken(typed);
        return once === undefined || taken(once) === once;
      }),
    );
  });
});

describe("a room code", () => {
  it("is taken in any case, with spaces or hyphens", () => {
    expect(RoomCode.parse("k7rdm")).toBe("K7RDM");
    expect(RoomCode.parse(" K7-R dm ")).toBe("K7RDM");
  });
  it("that is mistyped is still one that can be looked for, and not found", () => {
    expect(["K7RD", "K7RD0", "k7rd!", "K7RDMM"].map((code) => RoomCode.parse(code))).toEqual([
      ...["K7RD", "K7RD0", "K7RD!", "K7RDMM"],
    ]);
  });
  it.each(["", "x".repeat(100)])("is not %j", (code) => {
    expect(RoomCode.safeParse(code).success).toBe(false);
  });
  it("holds no letter that looks like another", () => {
    expect(new Set(CODE_ALPHABET).size).toBe(CODE_ALPHABET.length);
  });
});

describe("the table of problems", () => {
  it("has statuses, close codes and exit codes of the right ranges", () => {
    for (const code of problemCodes) {
      const { status, close, exit, title } = problemTable[code];
      expect(title.length, code).toBeGreaterThan(5);
      expect(status, code).toBeGreaterThanOrEqual(400);
      expect(status, code).toBeLessThan(600);
      if (close !== null) expect(close, code).toBeGreaterThanOrEqual(4400);
      expect(exit, code).toBeGreaterThan(0);
      expect(exit, code).toBeLessThan(8);
    }
  });
});
