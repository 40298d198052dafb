import type { ConfigName, PoolRules } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { hasPlaceFor } from "../model/pools/holds.ts";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { roomFor } from "./launch.ts";

/** Hosts at which the instances of a pool have their ports. */
export const hostsOf = ({ machines: all }: HarborRules, { host, machines }: PoolRules): string[] =>
  host !== null ? [host] : [...new Set(machines.flatMap((id) => all.get(id)?.host ?? []))];

/** How many more rooms a pool could take now: beside others on instances that run, and on those it could start. */
export function roomsLeftIn(state: PoolsPart, rules: HarborRules, id: ConfigName, at: number): number {
  const pool = rules.pools.get(id);
  if (pool === undefined) return 0;
  let left = 0;
  for (const one of state.pools.instances.values()) {
    const { gone, state: is, build, version, holds, capacity } = one;
    const isThere = is === "open" || is === "busy" || is === "launched" || is === "booting";
    if (
      gone ||
      one.pool !== id ||
      !isThere ||
      build !== pool.build ||
      !builds.views.takesNewRooms(state, build, version)
    )
      continue;
    if (hasPlaceFor(one, 1)) left += capacity.matches === "one" ? 1 : capacity.rooms - holds.size;
  }
  const version = builds.views.nextVersion(state, pool.build);
  const rooms = version === undefined ? 1 : (builds.views.spec(state, pool.build, version)?.rooms ?? 1);
  return left + rooms * roomFor(state, id, pool, hostsOf(rules, pool), at);
}
