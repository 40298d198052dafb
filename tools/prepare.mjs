// Installs what is missing and builds what is stale. Used by every other script, so each works on a fresh clone.
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { bin, ROOT, run, say } from "./run.mjs";

const STAMPS = join(ROOT, ".prepared");
const SOURCE_FOLDERS = ["packages", "examples", "bench", "trials"];
const SKIPPED = new Set(["node_modules", "dist", "data"]);

/** Hash of files and of all files in folders, by name and content. */
export function hashOf(paths) {
  const hash = createHash("sha256");
  const add = (path) => {
    if (!existsSync(join(ROOT, path))) return;
    hash.update(path).update(readFileSync(join(ROOT, path)));
  };
  const walk = (folder) => {
    for (const entry of readdirSync(join(ROOT, folder), { withFileTypes: true }).sort((a, b) =>
      a.name < b.name ? -1 : 1,
    )) {
      // A folder with a dot is no source: tests keep copies there for a while, beside what the others run from.
      const isHidden = entry.isDirectory() && entry.name.startsWith(".");
      if (isHidden || SKIPPED.has(entry.name)) continue;
      if (entry.isDirectory()) walk(join(folder, entry.name));
      else if (!/\.test\.tsx?$/.test(entry.name)) add(join(folder, entry.name));
    }
  };
  for (const path of paths) (/\.\w+$/.test(path) ? add : walk)(path);
  return hash.digest("hex");
}

const readStamp = (name) => {
  try {
    return readFileSync(join(STAMPS, name), "utf8");
  } catch {
    return undefined;
  }
};
const writeStamp = (name, value) => {
  mkdirSync(STAMPS, { recursive: true });
  writeFileSync(join(STAMPS, name), value);
};

/** Does a step when its inputs changed since it last went well. */
async function whenStale(name, hash, isThere, about, step) {
  if (isThere && readStamp(name) === hash) return;
  const begin = Date.now();
  say(about);
  const code = await step();
  if (code !== 0) {
    say(`${name} failed with exit code ${code}; what went wrong stands above.`);
    process.exit(1);
  }
  writeStamp(name, hash);
  say(`  done in ${((Date.now() - begin) / 1000).toFixed(1)} s`);
}

export async function install() {
  const hash = hashOf(["package-lock.json"]) + process.version;
  const isThere = existsSync(join(ROOT, "node_modules", ".package-lock.json"));
  const args = ["ci", "--no-audit", "--no-fund", "--loglevel=error"];
  const about = "Installing (the first time SQLite may be compiled, which takes a minute or two) ...";
  await whenStale("install", hash, isThere, about, () => run("npm", args));
}

export async function build() {
  const hash = hashOf([...SOURCE_FOLDERS, "tsconfig.json", "tsconfig.base.json"]);
  const isThere =
    existsSync(join(ROOT, "packages/cli/dist/bundle/main.js")) &&
    existsSync(join(ROOT, "packages/console/dist/app/index.html"));
  await whenStale("build", hash, isThere, "Building ...", async () => {
    const types = await run(bin("tsc"), ["-b"]);
    if (types !== 0) return types;
    // Loaded here: before the installation there is nothing to load it from.
    await (await import("./bundle.mjs")).bundle();
    const folder = join(ROOT, "packages/console");
    return run(join(folder, "node_modules/.bin/vite"), ["build", "--logLevel", "warn"], { cwd: folder });
  });
}

export async function prepare() {
  const [major = 0, minor = 0] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    say(`Node ${process.versions.node} is too old; Yellow Harbor needs 20.19 or newer.`);
    process.exit(1);
  }
  await install();
  await build();
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? "").href) await prepare();
