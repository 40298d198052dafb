import { describe, expect, it } from "vitest";
import { mergePatch } from "./merge-patch.ts";

describe("a merge patch", () => {
  // The examples of RFC 7396, appendix A.
  it.each([
    ['{"a":"b"}', '{"a":"c"}', '{"a":"c"}'],
    ['{"a":"b"}', '{"b":"c"}', '{"a":"b","b":"c"}'],
    ['{"a":"b"}', '{"a":null}', "{}"],
    ['{"a":"b","b":"c"}', '{"a":null}', '{"b":"c"}'],
    ['{"a":["b"]}', '{"a":"c"}', '{"a":"c"}'],
    ['{"a":"c"}', '{"a":["b"]}', '{"a":["b"]}'],
    ['{"a":{"b":"c"}}', '{"a":{"b":"d","c":null}}', '{"a":{"b":"d"}}'],
    ['{"a":[{"b":"c"}]}', '{"a":[1]}', '{"a":[1]}'],
    ['["a","b"]', '["c","d"]', '["c","d"]'],
    ['{"a":"b"}', '["c"]', '["c"]'],
    ['{"a":"foo"}', "null", "null"],
    ['{"a":"foo"}', '"bar"', '"bar"'],
    ['{"e":null}', '{"a":1}', '{"e":null,"a":1}'],
    ["[1,2]", '{"a":"b","c":null}', '{"a":"b"}'],
    ["{}", '{"a":{"bb":{"ccc":null}}}', '{"a":{"bb":{}}}'],
  ])("%s with %s gives %s", (target, patch, result) => {
    expect(mergePatch(JSON.parse(target), JSON.parse(patch))).toEqual(JSON.parse(result));
  });

  it("changes neither of its arguments", () => {
    const target = Object.freeze({ a: Object.freeze({ b: 1 }) });
    expect(mergePatch(target, { a: { c: 2 } })).toEqual({ a: { b: 1, c: 2 } });
    expect(target).toEqual({ a: { b: 1 } });
  });

  it("cannot reach the prototype", () => {
    mergePatch({}, JSON.parse('{"__proto__":{"polluted":true}}'));
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });
});
