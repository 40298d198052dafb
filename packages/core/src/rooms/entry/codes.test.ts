import { CODE_ALPHABET } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CODE_SPACE, codeOf, freeCode, harborOfCode } from "./codes.ts";

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

  const share = fc
    .integer({ min: 1, max: 1_296 })
    .chain((of) => fc.record({ number: fc.nat(of - 1), of: fc.constant(of) }));
  const given = (codeKey: [number, number, number, number], opened: number, one: { number: number; of: number }) =>
    freeCode({ opened, byCode: new Map() }, { codeKey, share: one })?.code ?? "";

  it("tell which of many harbors has given them out", () => {
    fc.assert(
      fc.property(key, fc.nat(20_000_000), share, (codeKey, opened, one) => {
        expect(harborOfCode(given(codeKey, opened, one), { codeKey, share: one })).toBe(one.number);
      }),
    );
  });

  it("are never given out by two harbors of a place, however often either has gone through its own", () => {
    const opened = fc.nat(20_000_000);
    fc.assert(
      fc.property(key, opened, opened, share, fc.nat(1_296), (codeKey, a, b, one, other) => {
        const another = { ...one, number: other % one.of };
        fc.pre(another.number !== one.number);
        expect(given(codeKey, a, one)).not.toBe(given(codeKey, b, another));
      }),
    );
  });

  it("are of no harbor when they have a form that no code has, or are in nobody's share", () => {
    const rules = { codeKey: [1, 2, 3, 4] as const, share: { number: 0, of: 1_296 } };
    for (const text of ["", "3AFG", "3AFGHJ", "3AF0H", "3af"]) expect(harborOfCode(text, rules)).toBeUndefined();
    const shared = Math.floor(CODE_SPACE / 1_296) * 1_296;
    expect(harborOfCode(codeOf(shared - 1, rules.codeKey), rules)).toBe(1_295);
    expect(harborOfCode(codeOf(shared, rules.codeKey), rules)).toBeUndefined();
  });

  it("are refused when every one of the harbor's share is some room's", () => {
    const rules = { codeKey: [1, 2, 3, 4] as const, share: { number: 7, of: 2_000_000 } };
    const byCode = new Map<string, string>();
    for (let n = 0; n < 2; n++) byCode.set(freeCode({ opened: n, byCode }, rules)?.code ?? "", `r_${n}`);
    expect(byCode.size).toBe(2);
    expect(freeCode({ opened: 2, byCode }, rules)).toBeUndefined();
    byCode.delete([...byCode.keys()][0] ?? "");
    expect(freeCode({ opened: 2, byCode }, rules)?.code).toBe(codeOf(7, rules.codeKey));
  });
});
