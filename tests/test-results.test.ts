import { describe, expect, it } from "vitest";
import { resultsOf, sum, triedAgain, withSecond } from "../tools/test-results.mjs";

const file = (name: string, ...statuses: string[]) => ({
  name,
  status: statuses.includes("failed") || statuses.length === 0 ? "failed" : "passed",
  assertionResults: statuses.map((status) => ({ status })),
});
const run = (...testResults: ReturnType<typeof file>[]) => resultsOf({ testResults });

describe("the results of the tests", () => {
  it("count a file that could not be loaded as one failure", () => {
    expect(sum(run(file("a", "passed", "failed", "skipped"), file("b")))).toEqual({ passed: 1, failed: 2 });
  });

  it("name the failed files to be tried again, unless so many failed that it cannot be chance", () => {
    expect(triedAgain(run(file("a", "passed"), file("b", "failed")))).toEqual(["b"]);
    expect(triedAgain(run(...Array.from({ length: 13 }, (_, n) => file(`f${n}`, "failed"))))).toEqual([]);
  });

  it("take the second run in place of the first: what fails twice has failed", () => {
    const first = run(file("a", "passed"), file("b", "passed", "failed"), file("c", "failed"));
    const { merged, passedAlone } = withSecond(first, run(file("b", "passed", "passed"), file("c", "failed")));
    expect(passedAlone).toEqual(["b"]);
    expect(sum(merged)).toEqual({ passed: 3, failed: 1 });
  });
});
