import fc from "fast-check";
import { inject } from "vitest";

declare module "vitest" {
  interface ProvidedContext {
    /** Share of the runs a property deserves that it gets: the configuration of the tests says it. */
    readonly runsShare: number;
  }
}

/** How often a property is tried, of the runs that it deserves. */
export const runs = (deserved: number): number => Math.max(10, Math.round(deserved * inject("runsShare")));

/** One sample after another, each of a seed of its own and the same in every run; none is made before it is asked for. */
export function* samplesOf<T>(arbitrary: fc.Arbitrary<T>, most: number, seeds: readonly number[] = []): Generator<T> {
  for (const seed of [...seeds, ...Array(most).keys()]) yield* fc.sample(arbitrary, { numRuns: 1, seed });
}
