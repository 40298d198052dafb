// Installs, builds, checks types, lint and unused code, and runs every test. The last line of standard output counts them.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, relative } from "node:path";
import { check } from "./check.mjs";
import { prepare } from "./prepare.mjs";
import { ensureChromium, ensurePrometheus, ensureProxies, ensureShells } from "./programs.mjs";
import { bin, ROOT, run, say } from "./run.mjs";
import { readResults, sum, triedAgain, withSecond } from "./test-results.mjs";

await prepare();
const chromium = await ensureChromium();
const proxies = await ensureProxies();
const prometheus = await ensurePrometheus();
await ensureShells();

const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-results-"));
// Beside the tests, which wait for much of their time.
const checked = check();
const first = await runTests("first", process.argv.slice(2));
const failedChecks = await checked;
const { results, passedAlone } = first === undefined ? { results: [], passedAlone: [] } : await tryAgain(first);
rmSync(folder, { recursive: true, force: true });

if (first === undefined) say("The test runner left no results.");
for (const name of failedChecks) say(`check failed: ${name}`);
for (const file of passedAlone) say(`passed only when run again by itself: ${relative(ROOT, file)}`);
const { passed, failed } = sum(results);
const allFailed = failed + failedChecks.length + (first === undefined ? 1 : 0);
process.stdout.write(`tests: ${passed} passed, ${allFailed} failed\n`);
process.exitCode = allFailed === 0 ? 0 : 1;

async function runTests(name, args) {
  const path = join(folder, `${name}.json`);
  const reporters = ["--reporter=default", "--reporter=json", `--outputFile.json=${path}`];
  const code = await run(bin("vitest"), ["run", ...reporters, ...args], {
    stdout: "inherit",
    env: {
      BUILT: "1",
      ...(chromium && { CHROMIUM: chromium }),
      ...Object.fromEntries(Object.entries(proxies).filter(([, path]) => path)),
      ...(prometheus && { PROMETHEUS: prometheus }),
    },
  });
  const results = readResults(path);
  // Something beside the tests has failed, such as an error that nobody caught.
  if (results !== undefined && code !== 0 && sum(results).failed === 0) return undefined;
  return results;
}

/** On a computer that has much else to do, a test can wait in vain; whoever fails by themselves as well has failed. */
async function tryAgain(results) {
  const files = triedAgain(results);
  if (files.length === 0) return { results, passedAlone: [] };
  say(`\nonce more, one at a time: ${files.map((file) => relative(ROOT, file)).join(", ")}\n`);
  const second = await runTests("second", ["--maxWorkers=1", ...files]);
  if (second === undefined) return { results, passedAlone: [] };
  const { merged, passedAlone } = withSecond(results, second);
  return { results: merged, passedAlone };
}
