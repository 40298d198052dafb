// A folder that runs where nothing is installed: yh, its Node, and SQLite's module as it was compiled for that Node.
import { chmodSync, copyFileSync, cpSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "../run.mjs";

/** What the bundle loads from node_modules, and of each what is needed to run. */
const LOADED = {
  "better-sqlite3": /\/(lib|build\/Release\/better_sqlite3\.node|package\.json|LICENSE)/,
  bindings: /./,
  "file-uri-to-path": /./,
  tinypool: /./,
};

const START = `#!/bin/sh
# Runs yh with the Node beside it, from wherever this is called or linked.
here=$(dirname "$(readlink -f "$0")")
exec "$here/node" "$here/../cli/bin/yh.js" "$@"
`;

export function stageArchive({ yh, folder }) {
  cpSync(yh, folder, { recursive: true });
  for (const [name, needed] of Object.entries(LOADED)) copyPackage(name, needed, folder);
  mkdirSync(join(folder, "bin"));
  copyFileSync(process.execPath, join(folder, "bin/node"));
  writeFileSync(join(folder, "bin/yh"), START);
  for (const file of ["bin/node", "bin/yh"]) chmodSync(join(folder, file), 0o755);
}

function copyPackage(name, needed, folder) {
  const from = join(ROOT, "node_modules", name);
  const isNeeded = (path) => path === from || isAbove(path, from) || needed.test(path.slice(from.length));
  cpSync(from, join(folder, "node_modules", name), { recursive: true, dereference: true, filter: isNeeded });
  const { license } = JSON.parse(readFileSync(join(from, "package.json"), "utf8"));
  if (license === undefined) throw new Error(`${name} says no licence`);
}

/** Folders on the way to the compiled module. */
const isAbove = (path, from) => [join(from, "build"), join(from, "build/Release")].includes(path);
