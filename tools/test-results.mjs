// What a run of the tests left, and what of it is tried again.
import { readFileSync } from "node:fs";

/** More files than so many do not fail because a computer is busy. */
const AGAIN_MAX = 12;

/**
 * The results of a run: one object per test file, with `file` (path), `passed` and `failed` (numbers of tests). A file that
 * cannot even be loaded has no tests to count, but has failed.
 */
export const resultsOf = ({ testResults }) =>
  testResults.map(({ name, status, assertionResults }) => {
    const count = (wanted) => assertionResults.filter((one) => one.status === wanted).length;
    const failed = count("failed");
    return { file: name, passed: count("passed"), failed: status === "failed" ? Math.max(failed, 1) : failed };
  });

export const readResults = (path) => {
  try {
    return resultsOf(JSON.parse(readFileSync(path, "utf8")));
  } catch {
    return undefined;
  }
};

/** The files that are tried once more by themselves; none where so many failed that this is no matter of time. */
export const triedAgain = (results) => {
  const failed = results.filter((one) => one.failed > 0).map(({ file }) => file);
  return failed.length > AGAIN_MAX ? [] : failed;
};

/** The results with those of the second run in place of the first, and which files passed only then. */
export function withSecond(results, second) {
  const again = new Map(second.map((one) => [one.file, one]));
  const merged = results.map((one) => again.get(one.file) ?? one);
  const passedAlone = second.filter((one) => one.failed === 0 && one.passed > 0).map(({ file }) => file);
  return { merged, passedAlone };
}

export const sum = (results) => ({
  passed: results.reduce((all, { passed }) => all + passed, 0),
  failed: results.reduce((all, { failed }) => all + failed, 0),
});
