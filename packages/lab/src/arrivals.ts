import { randomExponential } from "d3-random";

/** How many come, over time. */
export interface ArrivalPlan {
  readonly minutes: number;
  /** Points `[minute, rate]`, the rate by the minute: straight lines between them, flat after the last. */
  readonly perMinute: readonly (readonly [number, number])[];
}

/** When somebody comes, in seconds. Thinning: at the highest rate, each kept by its share of that (Lewis and Shedler, 1979). */
export function* arrivals(plan: ArrivalPlan, chance: () => number): Generator<number> {
  const highest = Math.max(...plan.perMinute.map(([, rate]) => rate));
  if (highest === 0) return;
  const gap = randomExponential.source(chance)(highest / 60);
  for (let at = gap(); at < plan.minutes * 60; at += gap()) {
    if (chance() * highest <= rateAt(plan, at / 60)) yield at;
  }
}

function rateAt({ perMinute }: ArrivalPlan, minute: number): number {
  const after = perMinute.findIndex(([at]) => at > minute);
  const [before, next] = [perMinute[after - 1], perMinute[after]];
  if (next === undefined) return perMinute.at(-1)?.[1] ?? 0;
  if (before === undefined) return next[1];
  return before[1] + ((next[1] - before[1]) * (minute - before[0])) / (next[0] - before[0]);
}
