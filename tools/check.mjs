// Types, lint, boundaries and unused code. `npm test` does the same before it runs the tests.
import { pathToFileURL } from "node:url";
import { prepare } from "./prepare.mjs";
import { bin, node, run, say } from "./run.mjs";

const steps = [
  ["types", bin("tsc"), ["-b"]],
  ["types of the tests", bin("tsc"), ["-p", "tsconfig.tests.json"]],
  ["lint and format", bin("biome"), ["ci", "--reporter=summary", "."]],
  ["unused code", bin("knip"), ["--no-progress"]],
  ["licences", node, ["tools/licences.mjs"]],
];

/** Runs all checks; resolves with the names of those that failed. */
export async function check() {
  const failed = [];
  for (const [name, command, args] of steps) {
    const begin = Date.now();
    const code = await run(command, args, { quiet: true });
    say(`${code === 0 ? "ok  " : "FAIL"}  ${name} (${((Date.now() - begin) / 1000).toFixed(1)} s)`);
    if (code !== 0) failed.push(name);
  }
  return failed;
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? "").href) {
  await prepare();
  const failed = await check();
  const boundaries = await run(bin("vitest"), ["run", "tests/boundaries.test.ts"], { quiet: true });
  say(`${boundaries === 0 ? "ok  " : "FAIL"}  boundaries`);
  process.exit(failed.length === 0 && boundaries === 0 ? 0 : 1);
}
