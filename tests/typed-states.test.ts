import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { ROOT, sourcesIn } from "./imports.ts";

/** Ways of writing that the compiler does not check: what is written into a state, or returned, may be anything. */
const unchecked: readonly [what: string, pattern: RegExp][] = [
  ["Object.assign", /\bObject\.assign\(/g],
  ["a literal that is spread", /\.\.\.\{/g],
];

const packages = ["protocol", "core", "reach", "client", "kit", "lab", "service", "cli", "console"];
const folders = [
  ...packages.map((name) => `packages/${name}/src`),
  "examples/tidewrights/src",
  "trials/src",
  "bench/src",
];

describe("what the compiler is to check", () => {
  it("is written so that it can: nothing is assigned in passing, and no literal is spread", () => {
    const files = folders.flatMap((folder) => sourcesIn(folder));
    expect(files.length).toBeGreaterThan(300);
    const found = files.flatMap(({ path, text }) =>
      unchecked.flatMap(([what, pattern]) => (text.match(pattern) ?? []).map(() => `${path}: ${what}`)),
    );
    expect(found).toEqual([]);
  });

  it("does not compile with a wrong phase, key, type or reply, nor with a room that cannot be", () => {
    const tsc = join(ROOT, "node_modules/.bin/tsc");
    const { status, stdout } = spawnSync(tsc, ["-p", "tests/planted/tsconfig.json", "--pretty", "false"], {
      cwd: ROOT,
      encoding: "utf8",
    });
    const faults = stdout
      .split("\n")
      .flatMap((line) => /^tests\/planted\/(\S+)\(\d+,\d+\): error/.exec(line)?.[1] ?? []);
    expect(faults).toEqual(["impossible.ts", "impossible.ts", "key.ts", "phase.ts", "reply.ts", "reply.ts", "type.ts"]);
    expect(status).not.toBe(0);
  });
});
