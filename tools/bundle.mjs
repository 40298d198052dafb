// Puts yh and the service together into a few files: Node finds and compiles those in a fraction of the time that it takes
// for the several hundred that they are made of. Names and lines stay readable, so that a stack trace says where.
import { mkdirSync, readdirSync, rmSync, statSync, writeFileSync } from "node:fs";
import { basename, join } from "node:path";
import { pathToFileURL } from "node:url";
import { build } from "esbuild";
import { ROOT } from "./run.mjs";

/** What Fastify would compile JSON schemas with: the service gives it other compilers, so these are never called. */
const UNUSED = /^@fastify\/(ajv-compiler|fast-json-stringify-compiler)$/;
const leaveOut = {
  name: "leave-out",
  setup(building) {
    building.onResolve({ filter: UNUSED }, ({ path }) => ({ path, namespace: "unused" }));
    building.onLoad({ filter: /.*/, namespace: "unused" }, ({ path }) => {
      const contents = `module.exports = () => { throw new Error("${path} was left out of the bundle"); };`;
      return { contents };
    });
    // Zod speaks English here; its other languages are left out.
    building.onLoad({ filter: /zod\/v4\/locales\/index\.js$/ }, () => ({
      contents: 'export { default as en } from "./en.js";',
    }));
  },
};

const OUT = join(ROOT, "packages/cli/dist/bundle");

/** A service that runs meanwhile still loads parts of the former build; they go when nobody will any more. */
const KEPT_MS = 3_600_000;

function removeOld() {
  mkdirSync(OUT, { recursive: true });
  for (const name of readdirSync(OUT)) {
    const file = join(OUT, name);
    if (Date.now() - statSync(file).mtimeMs > KEPT_MS) rmSync(file);
  }
}

export async function bundle() {
  removeOld();
  const { metafile } = await build({
    absWorkingDir: ROOT,
    entryPoints: {
      main: "packages/cli/dist/main.js",
      "sqlite-thread": "packages/service/dist/journal/sqlite-thread.js",
      "history-thread": "packages/service/dist/history/history-thread.js",
      "matcher-thread": "packages/service/dist/matcher/matcher-thread.js",
      "player-worker": "packages/service/dist/workers/worker-process.js",
    },
    outdir: OUT,
    bundle: true,
    splitting: true,
    format: "esm",
    platform: "node",
    target: "node20.19",
    // Native, what ws looks for and does without, and what starts threads by files of its own.
    external: ["better-sqlite3", "bufferutil", "utf-8-validate", "tinypool"],
    // What is CommonJS among the dependencies asks for Node's own modules by require.
    banner: {
      js: 'import { createRequire as requireFrom } from "node:module"; const require = requireFrom(import.meta.url);',
    },
    plugins: [leaveOut],
    metafile: true,
    logLevel: "warning",
  });
  const files = Object.keys(metafile.outputs).map((path) => basename(path));
  // What yh says of its versions, without loading all that has them.
  const { versions } = await import("../packages/service/dist/versions.js");
  writeFileSync(join(OUT, "versions.json"), JSON.stringify(versions()));
  writeFileSync(join(OUT, "files.json"), JSON.stringify({ files: [...files, "versions.json"] }));
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? "").href) await bundle();
