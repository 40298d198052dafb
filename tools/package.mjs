// Makes what a release consists of, in the folder `release`: packages of the SDKs and of yh with service and console, a folder
// for Linux that brings its Node, what it is all made of, checksums, and the notes of the version. Nothing is published.
import { createHash } from "node:crypto";
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { stageArchive } from "./package/archive.mjs";
import { billOfMaterials } from "./package/bill.mjs";
import { stageSdk } from "./package/sdk.mjs";
import { stageYh } from "./package/yh.mjs";
import { prepare } from "./prepare.mjs";
import { ROOT, run, say } from "./run.mjs";

const { version } = JSON.parse(readFileSync(join(ROOT, "package.json"), "utf8"));

const wanted = process.argv.indexOf("--out");
const out = resolve(wanted < 0 ? join(ROOT, "release") : (process.argv[wanted + 1] ?? "release"));
/** Whether the folder for Linux is made without putting it into an archive, as tests want it. */
const isQuick = process.argv.includes("--quick");

if (process.env.BUILT === undefined) await prepare();
rmSync(out, { recursive: true, force: true });
const staging = join(out, "staging");
mkdirSync(staging, { recursive: true });

async function done(work, what) {
  if ((await work) !== 0) throw new Error(`${what} cannot be made; what went wrong stands above`);
  say(`made ${what}`);
}

const packages = [
  await stageSdk("protocol", staging),
  await stageSdk("client", staging),
  await stageSdk("kit", staging),
  stageYh(staging, version),
];
await done(run("npm", ["pack", "--silent", "--pack-destination", out, ...packages], { quiet: true }), "4 packages");

const folder = `yellow-harbor-${version}-linux-${process.arch}`;
stageArchive({ yh: packages[3], folder: join(staging, folder) });
if (!isQuick) {
  const archive = join(out, `${folder}.tar.gz`);
  const same = ["--sort=name", "--mtime=@0", "--owner=0", "--group=0", "--numeric-owner"];
  await done(run("tar", [...same, "-C", staging, "-czf", archive, folder]), `${folder}.tar.gz`);
}

writeFileSync(join(out, `yellow-harbor-${version}.cdx.json`), `${JSON.stringify(await billOfMaterials(), null, 2)}\n`);
writeFileSync(join(out, "NOTES.md"), notes());
if (!isQuick) rmSync(staging, { recursive: true });

const files = readdirSync(out, { withFileTypes: true }).filter((entry) => entry.isFile());
const sums = files
  .map(({ name }) => `${sha256(join(out, name))}  ${name}\n`)
  .sort((a, b) => (a.slice(66) < b.slice(66) ? -1 : 1));
writeFileSync(join(out, "SHA256SUMS"), sums.join(""));
say(`${files.length + 1} files of version ${version} are in ${out}. Nothing was published.`);

function sha256(file) {
  return createHash("sha256").update(readFileSync(file)).digest("hex");
}

/** The section of the changelog about this version. */
function notes() {
  const [, ...sections] = readFileSync(join(ROOT, "CHANGELOG.md"), "utf8").split(/^## /m);
  const own = sections.find((section) => section.startsWith(version));
  if (own === undefined) throw new Error(`CHANGELOG.md has no section for ${version}`);
  return `# Yellow Harbor ${own.trimEnd()}\n`;
}
