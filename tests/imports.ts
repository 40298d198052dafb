import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { fileURLToPath } from "node:url";

export const ROOT = fileURLToPath(new URL("..", import.meta.url));

export interface SourceFile {
  /** Path from the root of the repository. */
  readonly path: string;
  readonly text: string;
  readonly imports: readonly string[];
}

/** What a text imports, re-exports or loads, types included. */
export function importsOf(text: string): string[] {
  const bare = text.replace(/\/\*[\s\S]*?\*\//g, "").replace(/^\s*\/\/.*$/gm, "");
  const found = bare.matchAll(/(?:\bfrom\s*|\bimport\s*\(?\s*|\brequire\s*\(\s*)["']([^"'\s]+)["']/g);
  return [...found].map(([, specifier = ""]) => specifier);
}

/** Files at any depth. What others make for a moment, in folders with a dot, is not looked into: it may go meanwhile. */
const filesIn = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (!entry.isDirectory()) return [path];
    return /^\.|^node_modules$|^dist$/.test(entry.name) ? [] : filesIn(path);
  });

/** All sources of a folder, tests and what only tests use left out. */
export function sourcesIn(folder: string): SourceFile[] {
  return filesIn(join(ROOT, folder))
    .filter((file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$/.test(file))
    .map((file) => relative(ROOT, file))
    .filter((path) => !/\/testing\//.test(path))
    .map((path) => {
      const text = readFileSync(join(ROOT, path), "utf8");
      return { path, text, imports: importsOf(text) };
    });
}

/** The first circle of imports among files, as the paths along it, or undefined. */
export function findCircle(files: readonly Pick<SourceFile, "path" | "imports">[]): string[] | undefined {
  const known = new Map(files.map((file) => [file.path, file]));
  const done = new Set<string>();
  const trail: string[] = [];
  const visit = (path: string): string[] | undefined => {
    if (trail.includes(path)) return [...trail.slice(trail.indexOf(path)), path];
    if (done.has(path)) return undefined;
    trail.push(path);
    for (const specifier of known.get(path)?.imports ?? []) {
      if (!specifier.startsWith(".")) continue;
      const target = relative(ROOT, resolve(ROOT, dirname(path), specifier));
      const circle = known.has(target) ? visit(target) : undefined;
      if (circle) return circle;
    }
    trail.pop();
    done.add(path);
    return undefined;
  };
  for (const { path } of files) {
    const circle = visit(path);
    if (circle) return circle;
  }
  return undefined;
}
