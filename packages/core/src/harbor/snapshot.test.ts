import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { withoutSeen } from "../testing/checks.ts";
import { testRules } from "../testing/rules.ts";
import { openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { Harbor } from "./harbor.ts";

/** JSON as players write it, with arrays among it that look like the marks of a snapshot. */
const tag = fc.constantFrom(
  "~map",
  "~flat",
  "~shared",
  "~set",
  "~",
  "~~map",
  "~~",
  "map",
  "a\nb",
  "a",
  "b",
  "__proto__",
);
const { value } = fc.letrec<{ value: unknown }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 3 },
    fc.constantFrom<unknown>(1, null, true, "", "~map"),
    tag.chain((first) => fc.array(tie("value"), { maxLength: 3 }).map((rest) => [first, ...rest])),
    fc.array(tie("value"), { maxLength: 3 }),
    fc.dictionary(tag, tie("value"), { maxKeys: 3, noNullPrototype: true }),
  ),
}));

describe("a snapshot", () => {
  it("gives back whatever players have written, also what looks like its own marks", () => {
    fc.assert(
      fc.property(value, (written) => {
        const test = new TestHarbor();
        const ansel = test.connect("Ansel");
        const room = openRoom(test, ansel);
        const { refused } = test.run({
          do: "board.set",
          player: ansel,
          args: { key: "stones", value: written as null },
        });
        fc.pre(refused === undefined);
        const restored = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
        expect(restored?.state.rooms.byId.get(room)?.board.get("stones")?.value).toEqual(written);
        expect(withoutSeen(restored)).toEqual(withoutSeen(test.harbor));
      }),
      { numRuns: 500 },
    );
  });

  it("leaves the state alone when it is taken, and when the restored one goes on", () => {
    const test = new TestHarbor();
    const ansel = test.connect("Ansel");
    openRoom(test, ansel);
    const before = structuredClone(withoutSeen(test.harbor));
    const text = test.harbor.snapshot();
    const restored = Harbor.fromSnapshot(testRules(), text);
    restored?.execute({ do: "player.leave", player: ansel }, { at: test.now, entropy: [9, 9, 9, 9] });
    expect(withoutSeen(test.harbor)).toEqual(before);
    expect(test.harbor.snapshot()).toBe(text);
  });

  it("of another version, or what is none, is not read", () => {
    const text = new TestHarbor().harbor.snapshot();
    const others = [text.replace(/"version":\d+/, '"version":1'), text.slice(0, -40), '{"version":6}', "null", ""];
    for (const other of others) expect(Harbor.fromSnapshot(testRules(), other), other).toBeUndefined();
  });
});
