import { CODE_ALPHABET } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CODE_SPACE, codeOf } from "./codes.ts";

const u32 = fc.integer({ min: 0, max: 0xffff_ffff });
const key = fc.tuple(u32, u32, u32, u32);

describe("room codes", () => {
  it("never collide before the whole space is used", () => {
    const seen = new Set<string>();
    for (let n = 0; n < 200_000; n++) seen.add(codeOf(n, [11, 22, 33, 44]));
    expect(seen.size).toBe(200_000);
    expect(CODE_SPACE).toBeGreaterThan(4_000_000);
  });

  it("do not collide between any two numbers of the space, under any key", () => {
    const number = fc.nat(CODE_SPACE - 1);
    fc.assert(fc.property(key, number, number, (k, a, b) => (a === b) === (codeOf(a, k) === codeOf(b, k))));
  });

  it("are five characters that are not mistaken for each other", () => {
    fc.assert(
      fc.property(key, fc.nat(CODE_SPACE - 1), (k, n) => new RegExp(`^[${CODE_ALPHABET}]{5}$`).test(codeOf(n, k))),
    );
    for (const lookAlike of "0O1IL2Z5S8B") expect(CODE_ALPHABET).not.toContain(lookAlike);
  });

  it("depend on the key, so that one code does not give away the next", () => {
    const first = Array.from({ length: 20 }, (_, n) => codeOf(n, [1, 2, 3, 4]));
    const second = Array.from({ length: 20 }, (_, n) => codeOf(n, [1, 2, 3, 5]));
    expect(first).not.toEqual(second);
  });
});
