import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { safeJson, safeLine, safeLines } from "./screen.ts";

/** What a terminal acts on: C0 and C1 controls, delete, and what reorders text. */
const ACTED_ON = /(?!\n)[\p{Cc}\u2028-\u202e\u2066-\u2069\u200e\u200f\ufeff]/u;

describe("what is printed", () => {
  it.each([
    ["Ansel\u001b]0;owned\u0007", "Ansel\\u{1b}]0;owned\\u{7}"],
    ["\u001b[2J\u001b[1;1H", "\\u{1b}[2J\\u{1b}[1;1H"],
    ["a\u009b31mb", "a\\u{9b}31mb"],
    ["user\u202egpj.exe", "user\\u{202e}gpj.exe"],
    ["two\nlines", "two\\u{a}lines"],
    ["\u001b[32mgreen\u001b[39m", "\u001b[32mgreen\u001b[39m"],
    ["李明 😀 e\u0301", "李明 😀 e\u0301"],
  ])("of %j is %j", (text, shown) => {
    expect(safeLine(text)).toBe(shown);
  });

  it("keeps the lines of a log, and nothing else that moves a cursor", () => {
    expect(safeLines("one\n\ttwo\rthree\u0008")).toBe("one\n\ttwo\\u{d}three\\u{8}");
  });

  it("as JSON means what it meant, whatever is in it", () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.string({ unit: "binary" }), (value, text) => {
        const json = safeJson(JSON.stringify({ value, text: `${text}\u202e\u009b\\u{41}` }, null, 2));
        expect(json).not.toMatch(ACTED_ON);
        expect(JSON.parse(json)).toEqual(JSON.parse(JSON.stringify({ value, text: `${text}\u202e\u009b\\u{41}` })));
      }),
    );
  });
});
