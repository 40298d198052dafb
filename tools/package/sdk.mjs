// A package of an SDK as it is published: types and ES modules, and for the client one file for browsers.
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build } from "esbuild";
import { ROOT } from "../run.mjs";

/** Stages a package and returns its folder. */
export async function stageSdk(name, staging) {
  const from = join(ROOT, "packages", name);
  const to = join(staging, name);
  mkdirSync(to);
  cpSync(join(from, "dist"), join(to, "dist"), {
    recursive: true,
    filter: (file) => !/\.map$|\.tsbuildinfo$/.test(file),
  });
  withoutMaps(join(to, "dist"));
  cpSync(join(ROOT, "LICENSE"), join(to, "LICENSE"));
  cpSync(join(from, "README.md"), join(to, "README.md"));
  const own = JSON.parse(readFileSync(join(from, "package.json"), "utf8"));
  const { private: _, ...shown } = own;
  const { types, default: main } = own.exports["."];
  const forBrowsers = name === "client" ? await browserFile(to) : {};
  const exported = { ".": { types, ...(forBrowsers.path && { browser: forBrowsers.path }), default: main } };
  if (forBrowsers.path) exported["./browser"] = { types, default: forBrowsers.path };
  const packed = { ...shown, exports: exported, engines: { node: ">=20.19" } };
  writeFileSync(join(to, "package.json"), `${JSON.stringify(packed, null, 2)}\n`);
  return to;
}

/** The SDK with all that it needs, for a page without a bundler; browsers bring their own WebSocket. */
async function browserFile(to) {
  await build({
    absWorkingDir: ROOT,
    entryPoints: [join(ROOT, "packages/client/dist/index.js")],
    outfile: join(to, "dist/browser.js"),
    bundle: true,
    format: "esm",
    platform: "browser",
    target: "es2022",
    minify: true,
    legalComments: "eof",
    external: ["ws"],
    plugins: [
      {
        name: "english-alone",
        setup: (building) =>
          building.onLoad({ filter: /zod\/v4\/locales\/index\.js$/ }, () => ({
            contents: 'export { default as en } from "./en.js";',
          })),
      },
    ],
    logLevel: "warning",
  });
  return { path: "./dist/browser.js" };
}

/** Sources are not shipped, so nothing is to point at them. */
function withoutMaps(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true, recursive: true })) {
    const file = join(entry.parentPath ?? entry.path, entry.name);
    if (!entry.isFile() || !/\.(js|d\.ts)$/.test(file) || !existsSync(file)) continue;
    writeFileSync(file, readFileSync(file, "utf8").replace(/\n\/\/# sourceMappingURL=.*\n?$/, "\n"));
  }
}
