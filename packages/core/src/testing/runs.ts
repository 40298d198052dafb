const SHARE = 0.35;

/**
 * How often a property is tried, of the runs that it deserves: a share of them in `npm test`, which is run often and draws
 * others each time, and all or more at night, with `RUNS=1 npm test` or `RUNS=10 npm test`.
 */
export const runs = (deserved: number): number =>
  Math.max(10, Math.round(deserved * Number(process.env.RUNS ?? SHARE)));
