import { mergePatch } from "@yellow-harbor/client";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Patching } from "./patching.ts";

const leaf = fc.oneof(fc.integer({ min: 0, max: 3 }), fc.constant(null), fc.array(fc.integer(), { maxLength: 2 }));
const key = fc.constantFrom("a", "b", "c");
const patch = fc.letrec((tie) => ({
  patch: fc.dictionary(key, fc.oneof({ maxDepth: 3 }, leaf, tie("patch")), { maxKeys: 3 }),
})).patch;

describe("patching", () => {
  it("comes to what applying each patch by itself comes to, and leaves alone what was given out", () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(patch, fc.boolean()), { maxLength: 12 }), (steps) => {
        const patching = new Patching<object>({ a: { b: 1 }, c: [1] });
        let expected: object = { a: { b: 1 }, c: [1] };
        const given: [object, string][] = [];
        for (const [one, isLookedAt] of steps) {
          patching.apply(one);
          expected = mergePatch(expected, one);
          if (isLookedAt) {
            const seen = patching.look();
            expect(seen).toEqual(expected);
            given.push([seen, JSON.stringify(seen)]);
          }
        }
        expect(patching.look()).toEqual(expected);
        for (const [seen, before] of given) expect(JSON.stringify(seen)).toBe(before);
      }),
      { numRuns: 300 },
    );
  });

  it("keeps what is not changed the same object, and copies once what is changed often", () => {
    const patching = new Patching({ rooms: { one: { n: 1 }, two: { n: 2 } } });
    const before = patching.look();
    patching.apply({ rooms: { one: { n: 3 } } });
    patching.apply({ rooms: { one: { n: 4 } } });
    const after = patching.look();
    expect(after.rooms.two).toBe(before.rooms.two);
    expect(before.rooms.one.n).toBe(1);
    expect(after.rooms.one.n).toBe(4);
  });
});
