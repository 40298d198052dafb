import { describe, expect, it } from "vitest";
import { findCircle, importsOf, type SourceFile, sourcesIn } from "./imports.ts";

/** What each package may import of the others: arrows point down only. */
const mayImport: Readonly<Record<string, readonly string[]>> = {
  "packages/protocol": [],
  "packages/core": ["protocol"],
  "packages/reach": ["protocol"],
  "packages/service": ["protocol", "core", "reach"],
  "packages/client": ["protocol"],
  "packages/kit": ["protocol"],
  "packages/lab": ["protocol", "core"],
  "packages/cli": ["protocol", "core", "client", "reach", "lab", "service"],
  "packages/console": ["protocol", "client"],
  "examples/tidewrights": ["protocol", "client", "kit"],
};

const ours = (specifier: string) => /^@yellow-harbor\/([^/]+)(\/.*)?$/.exec(specifier);

/** Imports of core that are neither its own files nor the protocol; and uses of the world outside. */
function impurities({ path, text, imports }: SourceFile): string[] {
  const foreign = imports.filter((specifier) => {
    if (!specifier.startsWith(".")) return specifier !== "@yellow-harbor/protocol";
    return specifier.startsWith("../".repeat(path.split("/").length - 3));
  });
  const worldly = text.match(
    /\bDate\b|\bMath\.random\b|\bglobalThis\b|\bprocess\.|\bset(?:Timeout|Interval|Immediate)\b|\bperformance\./g,
  );
  return [...foreign, ...(worldly ?? []), ...hiddenState(text)].map((what) => `${path}: ${what}`);
}

/** What a module could remember from one call to the next: state is the harbor's alone. A list or map that is given whole is none. */
function hiddenState(text: string): string[] {
  const variables = text.match(/^(?:export )?(?:let|var) \w+/gm) ?? [];
  const empty = text.match(
    /^(?:export )?const \w+(?:: (?!readonly |Readonly)[^=\n]+)? = (?:new (?:Weak)?(?:Map|Set)\b[^(\n]*\(\)|new \w*Array\(|\[\];|\{\};)/gm,
  );
  return [...variables, ...(empty ?? [])];
}

describe("core", () => {
  it("imports nothing but its own files and the protocol, and knows no clock, chance or outside", () => {
    const files = sourcesIn("packages/core/src");
    expect(files.length).toBeGreaterThan(40);
    expect(files.flatMap(impurities)).toEqual([]);
  });

  it("would be caught importing a package, a sibling's file, a built-in, or reading the clock", () => {
    const planted = (text: string): SourceFile => ({
      path: "packages/core/src/rooms/planted.ts",
      text,
      imports: importsOf(text),
    });
    for (const text of [
      'import { z } from "zod";',
      'import fs from "node:fs";',
      'export { x } from "../../../service/src/serve.ts";',
      'const late = await import("@yellow-harbor/service");',
      "const at = Date.now();",
      "const dice = Math.random();",
      "setTimeout(() => undefined, 5);",
      "let seen = 0;",
      "const indexes = new WeakMap<QueueState, Index>();",
      "export const known: Map<string, number> = new Map();",
      "const spare = new Float64Array(8);",
      "const rows = [];",
    ]) {
      expect(impurities(planted(text)), text).toHaveLength(1);
    }
    expect(
      impurities(planted('import { a } from "../pools/index.ts";\nimport type { B } from "@yellow-harbor/protocol";')),
    ).toEqual([]);
  });

  it("has capabilities that ask each other through their index only", () => {
    const capabilities = ["players", "lobbies", "rooms", "travel", "queues", "matching", "pools", "deadlines"];
    const reached = sourcesIn("packages/core/src").flatMap(({ path, imports }) => {
      const own = path.split("/")[3] ?? "";
      // The harbor composes the capabilities' words; a push carries a pass.
      if (own === "harbor") return [];
      return imports
        .map((specifier) => /^\.\.\/(\w+)\/(.+)$/.exec(specifier))
        .filter(
          (found) => found && found[1] !== own && capabilities.includes(found[1] ?? "") && found[2] !== "index.ts",
        )
        .map((found) => `${path} reaches into ${found?.[0]}`);
    });
    expect(reached).toEqual([]);
  });
});

describe("packages", () => {
  it.each(Object.entries(mayImport))("%s imports only what lies below it, by name", (folder, allowed) => {
    const wrong = sourcesIn(`${folder}/src`).flatMap(({ path, imports }) =>
      imports.filter((specifier) => {
        const found = ours(specifier);
        if (found) return !allowed.includes(found[1] ?? "") || found[2] !== undefined;
        return specifier.startsWith("../".repeat(path.split("/").length - 3));
      }),
    );
    expect(wrong).toEqual([]);
  });

  it("have no import circles, types included", () => {
    expect(findCircle(["packages", "examples", "bench", "trials"].flatMap(sourcesIn))).toBeUndefined();
  });

  it("would be caught in a circle", () => {
    const planted = [
      { path: "packages/x/a.ts", imports: ["./b.ts"] },
      { path: "packages/x/b.ts", imports: ["./deep/c.ts"] },
      { path: "packages/x/deep/c.ts", imports: ["../a.ts"] },
    ];
    expect(findCircle(planted)).toEqual([
      "packages/x/a.ts",
      "packages/x/b.ts",
      "packages/x/deep/c.ts",
      "packages/x/a.ts",
    ]);
  });
});
