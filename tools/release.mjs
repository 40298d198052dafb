// Checks that everything a release consists of agrees: versions, changelog, documents, images, a data file of this version.
// It tags and publishes nothing. With --record it makes the data file, which later versions have to read.

import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { hashOf, prepare } from "./prepare.mjs";
import { bin, node, ROOT, run, say } from "./run.mjs";
import { DRAWN_FROM, DRAWN_STAMP } from "./screenshots-stamp.mjs";

const read = (path) => readFileSync(join(ROOT, path), "utf8");
const { version } = JSON.parse(read("package.json"));
const DATA_FILE = `tests/releases/${version}.sqlite.gz`;
const yh = join(ROOT, "packages/cli/bin/yh.js");

/** A service with a few bots that play on real instances, and a copy of its data while they do. */
async function record() {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-release-"));
  const config = read("examples/tidewrights/harbor.yaml").replace(/^data:.*\n/m, "");
  const file = join(ROOT, "examples/tidewrights", `.release-${process.pid}.yaml`);
  writeFileSync(file, `${config}\njournal: { snapshotEvery: 200 }\n`);
  const args = ["serve", "-c", file, "-d", join(folder, "data"), "--port", "0", "--stop-instances"];
  const service = spawn(node, [yh, ...args], { stdio: ["ignore", "pipe", "inherit"] });
  try {
    const url = await urlOf(service);
    const aboard = join(ROOT, "examples/tidewrights/dist/game/play.js");
    await run(node, [yh, "bots", "--count", "16", "--seconds", "25", "--seed", "7", "--aboard", aboard, "--url", url]);
    const copy = join(folder, "copy.sqlite");
    if ((await run(node, [yh, "backup", copy, "--url", url])) !== 0) throw new Error("the backup failed");
    mkdirSync(join(ROOT, "tests/releases"), { recursive: true });
    writeFileSync(join(ROOT, DATA_FILE), gzipSync(readFileSync(copy), { level: 9 }));
    say(`wrote ${DATA_FILE}`);
  } finally {
    const ended = once(service, "exit");
    service.kill("SIGTERM");
    await ended;
    rmSync(file, { force: true });
    rmSync(folder, { recursive: true, force: true });
  }
}

async function urlOf(service) {
  let said = "";
  for await (const chunk of service.stdout) {
    said += chunk;
    const found = /"url":"([^"]+)"/.exec(said);
    if (found) {
      service.stdout.resume();
      return found[1];
    }
  }
  throw new Error("the service has ended");
}

const packages = ["package.json", "bench/package.json", "trials/package.json"].concat(
  ...["packages", "examples"].map((folder) =>
    readdirSync(join(ROOT, folder))
      .map((name) => `${folder}/${name}/package.json`)
      .filter((path) => existsSync(join(ROOT, path))),
  ),
);

/** Each check returns what is wrong, with what to do; nothing when all is well. */
const checks = {
  "every package has the version": () => {
    const others = packages.filter((path) => JSON.parse(read(path)).version !== version);
    return others.length > 0 && `${others.join(", ")} have another; they need ${version}`;
  },
  "the lock file is that of the packages": async () =>
    (await run("npm", ["ls", "--package-lock-only", "--silent"], { quiet: true })) !== 0 &&
    "run npm install --package-lock-only",
  "the changelog begins with the version": () => {
    const first = /^## (.+)$/m.exec(read("CHANGELOG.md"))?.[1];
    return first !== version && `its first section is ${first}; name it ${version}`;
  },
  "documents are those of the schemas, and their examples run": async () =>
    (await run(bin("vitest"), ["run", "tests/docs.test.ts"], { quiet: true, env: { BUILT: "1" } })) !== 0 &&
    "run npm run docs, and read what the test says",
  "images are those of the console and yh": () =>
    (!existsSync(join(ROOT, DRAWN_STAMP)) || read(DRAWN_STAMP).trim() !== hashOf(DRAWN_FROM)) &&
    "run npm run screenshots, and look at them",
  "the README shows every image": () => {
    const images = readdirSync(join(ROOT, "docs/screenshots")).filter((name) => name.endsWith(".png"));
    const missing = images.filter((name) => !read("README.md").includes(name));
    return missing.length > 0 && `it lacks ${missing.join(", ")}`;
  },
  "there is a data file of the version": () =>
    !existsSync(join(ROOT, DATA_FILE)) && "run npm run release -- --record, and commit it",
};

await prepare();
if (process.argv.includes("--record")) await record();
let wrong = 0;
for (const [what, check] of Object.entries(checks)) {
  const fault = await check();
  say(fault ? `FAIL  ${what}: ${fault}` : `ok    ${what}`);
  if (fault) wrong += 1;
}
say(
  wrong === 0 ? `Version ${version} is consistent. Nothing was tagged.` : `${wrong} of these have to be mended first.`,
);
process.exitCode = wrong === 0 ? 0 : 1;
