// Installs, builds, checks types, lint and unused code, and runs every test. The last line of standard output counts them.
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { check } from "./check.mjs";
import { prepare } from "./prepare.mjs";
import { ensureChromium, ensurePrometheus, ensureProxies, ensureShells } from "./programs.mjs";
import { bin, run, say } from "./run.mjs";

await prepare();
const chromium = await ensureChromium();
const proxies = await ensureProxies();
const prometheus = await ensurePrometheus();
await ensureShells();

const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-results-"));
const results = join(folder, "results.json");
const reporters = ["--reporter=default", "--reporter=json", `--outputFile.json=${results}`];
// Beside the tests, which wait for much of their time.
const checked = check();
const code = await run(bin("vitest"), ["run", ...reporters, ...process.argv.slice(2)], {
  stdout: "inherit",
  env: {
    BUILT: "1",
    ...(chromium && { CHROMIUM: chromium }),
    ...Object.fromEntries(Object.entries(proxies).filter(([, path]) => path)),
    ...(prometheus && { PROMETHEUS: prometheus }),
  },
});

const failedChecks = await checked;
const { passed, failed } = count();
rmSync(folder, { recursive: true, force: true });
for (const name of failedChecks) say(`check failed: ${name}`);
const allFailed = failed + failedChecks.length;
process.stdout.write(`tests: ${passed} passed, ${allFailed} failed\n`);
process.exitCode = code === 0 && allFailed === 0 ? 0 : 1;

function count() {
  try {
    const { numPassedTests, numFailedTests, numFailedTestSuites } = JSON.parse(readFileSync(results, "utf8"));
    // A file that cannot even be loaded has no tests to count, but it has failed.
    return { passed: numPassedTests, failed: Math.max(numFailedTests, numFailedTestSuites > 0 ? 1 : 0) };
  } catch {
    say("The test runner left no results.");
    return { passed: 0, failed: 1 };
  }
}
