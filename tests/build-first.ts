import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";

const ROOT = fileURLToPath(new URL("..", import.meta.url));

/** Threads and child processes of the tests run the build, so it must be that of the sources under test. */
export function setup(): void {
  // `npm test` has built already.
  if (process.env["BUILT"] !== undefined) return;
  execFileSync(`${ROOT}node_modules/.bin/tsc`, ["-b"], { cwd: ROOT, stdio: "inherit" });
  execFileSync(process.execPath, [`${ROOT}tools/bundle.mjs`], { stdio: "inherit" });
}
