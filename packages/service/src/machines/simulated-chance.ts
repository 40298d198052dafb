import { randomLogNormal } from "d3-random";
import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import type { SimulatedConfig } from "../config/simulated.ts";

/** What becomes of the instances of a simulated machine, one after the other, from its seed. */
export function chancesOf({ seed, bootMs, bootSpread, neverUp, crashes }: SimulatedConfig) {
  const generator = xoroshiro128plus(seed);
  const uniform = () => uniformFloat64(generator);
  const spread = randomLogNormal.source(uniform)(Math.log(bootMs), bootSpread);
  return {
    next: () => ({ isNeverUp: uniform() < neverUp, bootMs: Math.min(600_000, Math.max(1, Math.round(spread()))) }),
    match: (players: number) => ({
      isCrash: uniform() < crashes,
      scores: Array.from({ length: players }, () => Math.floor(uniform() * 20)),
    }),
  };
}
