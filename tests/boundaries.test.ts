import { posix } from "node:path";
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

/** The capabilities of core, with the part of the state that each may read: parts may one day be in different harbors. */
const partOf: Readonly<Record<string, "RoomsPart" | "QueuesPart" | "PoolsPart">> = {
  players: "RoomsPart",
  bans: "RoomsPart",
  lobbies: "RoomsPart",
  parties: "RoomsPart",
  relations: "RoomsPart",
  "private-entries": "RoomsPart",
  rooms: "RoomsPart",
  travel: "RoomsPart",
  queues: "QueuesPart",
  ratings: "QueuesPart",
  pools: "PoolsPart",
  planner: "PoolsPart",
  fleets: "PoolsPart",
  builds: "PoolsPart",
  machines: "PoolsPart",
};

const isCapability = (folder: string | undefined) => folder !== undefined && Object.hasOwn(partOf, folder);

/** From the cellar to the roof: what knows of nothing, what all know, the capabilities, and what puts them together. */
const floors: readonly (readonly string[])[] = [
  ["deadlines", "matching", "planning"],
  ["model"],
  Object.keys(partOf),
  ["harbor"],
  ["index.ts", "testing"],
];

const floorOf = (folder: string) => floors.findIndex((floor) => floor.includes(folder));

/** Imports of a file of core that go up, past the index of a capability, or to a part that may be elsewhere. */
function arrowsUp({ path, text, imports }: SourceFile): string[] {
  const own = path.split("/")[3] ?? "";
  if (floorOf(own) < 0) return [`${path} stands on no floor`];
  const wrong = imports.filter((specifier) => {
    if (!specifier.startsWith(".")) return false;
    const [folder = "", ...rest] = posix.join(posix.dirname(path), specifier).split("/").slice(3);
    if (folder === own) return false;
    if (floorOf(folder) > floorOf(own)) return true;
    if (!isCapability(folder) || !isCapability(own))
      return isCapability(folder) && own === "harbor" && rest[0] !== "index.ts";
    return rest.join("/") !== "index.ts" || partOf[folder] !== partOf[own];
  });
  const strange = isCapability(own)
    ? (text.match(/\b(?:RoomsPart|QueuesPart|PoolsPart|HarborState)\b/g) ?? []).filter((name) => name !== partOf[own])
    : [];
  return [...new Set([...wrong, ...strange])].map((what) => `${path} -> ${what}`);
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

  it("has floors: nothing imports from one above it", () => {
    expect(sourcesIn("packages/core/src").flatMap(arrowsUp)).toEqual([]);
  });

  it("would be caught with an arrow that points up, past an index, or into a part that may be elsewhere", () => {
    const planted = (path: string, text: string): SourceFile => ({ path, text, imports: importsOf(text) });
    const core = "packages/core/src";
    for (const file of [
      planted(`${core}/model/planted.ts`, 'import { rooms } from "../rooms/index.ts";'),
      planted(`${core}/matching/planted.ts`, 'import type { Room } from "../model/rooms/state.ts";'),
      planted(`${core}/rooms/entry/planted.ts`, 'import { apply } from "../../harbor/apply.ts";'),
      planted(`${core}/rooms/planted.ts`, 'import { travelView } from "../travel/view.ts";'),
      planted(`${core}/queues/planted.ts`, 'import { rooms } from "../rooms/index.ts";'),
      planted(`${core}/queues/planted.ts`, 'import type { RoomsPart } from "../model/state.ts";'),
      planted(`${core}/pools/planted.ts`, 'import type { HarborState } from "../model/state.ts";'),
    ]) {
      expect(arrowsUp(file), file.text).toHaveLength(1);
    }
    const down = 'import { travel } from "../travel/index.ts";\nimport type { RoomsPart } from "../model/state.ts";';
    expect(arrowsUp(planted(`${core}/rooms/planted.ts`, down))).toEqual([]);
  });

  it("has capabilities that export one thing each", () => {
    const exported = sourcesIn("packages/core/src")
      .filter(({ path }) => isCapability(path.split("/")[3]) && path.split("/")[4] === "index.ts")
      .map(({ path, text }) => {
        const names = [...text.matchAll(/^export (?:const )?(\S+)/gm)].map(([, name = ""]) => name);
        return [path.split("/")[3], ...names];
      });
    expect(exported.map(([folder]) => folder).sort()).toEqual(Object.keys(partOf).sort());
    for (const [folder = "", ...names] of exported) {
      const name = folder.replace(/-(.)/g, (_, letter: string) => letter.toUpperCase());
      expect(names, `packages/core/src/${folder}/index.ts`).toEqual([name]);
    }
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
