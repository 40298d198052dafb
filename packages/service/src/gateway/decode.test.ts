import { nestsWithin, Problem, playerAsks } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseConfig } from "../config/load.ts";
import { TEST_CONFIG } from "../testing/test-service.ts";
import { decode } from "./decode.ts";

const bytesOf = (value: unknown) => Buffer.from(JSON.stringify(value) ?? "");
const protocolErrorOf = (bytes: Buffer) => {
  const decoded = decode(bytes);
  if (decoded.frame !== "protocolError") throw new Error("it was taken");
  return decoded;
};

describe("decoding a frame", () => {
  it("answers any bytes with a frame or a problem, and never throws", () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.uint8Array({ maxLength: 200 }),
          fc.json().map((text) => Buffer.from(text)),
        ),
        (bytes) => {
          const decoded = decode(Buffer.from(bytes));
          if (decoded.frame === "protocolError") Problem.parse(decoded.problem);
        },
      ),
      { numRuns: 1_000 },
    );
  });

  it("answers any arguments of any request so, and keeps the id of the request in what it says", () => {
    fc.assert(
      fc.property(fc.constantFrom(...playerAsks), fc.jsonValue(), fc.nat(), (ask, args, id) => {
        const decoded = decode(bytesOf({ frame: "request", id, ask, args }));
        if (decoded.frame === "protocolError") expect(decoded.id).toBe(id);
        else expect(decoded).toMatchObject({ frame: "request", request: { id, ask } });
      }),
      { numRuns: 1_000 },
    );
  });

  it("names at most twenty faults, however many there are", () => {
    const args = Object.fromEntries(Array.from({ length: 500 }, (_, n) => [`member${n}`, n]));
    expect(
      protocolErrorOf(bytesOf({ frame: "request", id: 1, ask: "room.open", args })).problem.fields?.length,
    ).toBeLessThanOrEqual(20);
  });

  it("measures nesting without following it all the way down", () => {
    const nested = (levels: number): unknown => (levels === 0 ? 1 : [nested(levels - 1)]);
    expect([nestsWithin(1, 0), nestsWithin(nested(16), 16), nestsWithin(nested(17), 16)]).toEqual([true, true, false]);
    const bytes = Buffer.from(
      `{"frame":"request","id":1,"ask":"board.set","args":{"key":"k","value":${"[".repeat(7_000)}${"]".repeat(7_000)}}}`,
    );
    expect(protocolErrorOf(bytes)).toMatchObject({
      id: 1,
      problem: { code: "request-invalid", fields: [{ path: "args.value" }] },
    });
  });
});

describe("reading a configuration", () => {
  it("answers any text with a configuration or with faults that have a place, and never throws", () => {
    const right = TEST_CONFIG();
    const mangled = fc
      .tuple(fc.nat(right.length), fc.nat(30), fc.string({ maxLength: 12 }))
      .map(([at, cut, put]) => right.slice(0, at) + put + right.slice(at + cut));
    fc.assert(
      fc.property(fc.oneof(mangled, fc.string({ maxLength: 80 })), (text) => {
        const parsed = parseConfig(text);
        if (parsed.ok) return;
        expect(parsed.faults.length).toBeGreaterThan(0);
        for (const { line, column, message } of parsed.faults) {
          expect(line).toBeGreaterThanOrEqual(1);
          expect(column).toBeGreaterThanOrEqual(1);
          expect(message).not.toBe("");
        }
      }),
      { numRuns: 400 },
    );
  });
});

describe("JSON of players' own", () => {
  const written = (value: string) =>
    decode(Buffer.from(`{"frame":"request","id":1,"ask":"board.set","args":{"key":"a","value":${value}}}`));

  it.each<[what: string, text: string, why: RegExp]>([
    ["a number that no double holds", "1e400", /too large for a double/],
    ["a whole number that would come back as another", "9007199254740993", /beyond 2\^53/],
    ["one deep inside", '{"deep":[1,{"n":-18014398509481984}]}', /beyond 2\^53/],
    ["a whole number far beyond them", "1.5e300", /beyond 2\^53/],
    ["half a surrogate pair", '"\\ud83d"', /half a character/],
    ["half of one in a key", '{"\\udc00":1}', /half a character/],
  ])("is refused when it would arrive as something else: %s", (_what, text, why) => {
    expect(written(text)).toMatchObject({
      frame: "protocolError",
      problem: { code: "request-invalid", detail: expect.stringMatching(why) },
    });
  });

  it.each(["9007199254740991", "-0.1", '"\\ud83d\\ude00"', '{"a":[null,true,"Łukasz"]}'])(
    "is taken as it is otherwise: %s",
    (text) => {
      const decoded = written(text);
      expect(decoded).toMatchObject({ frame: "request", request: { args: { value: JSON.parse(text) } } });
    },
  );
});
