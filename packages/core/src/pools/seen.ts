import { heldBy } from "../model/pools/holds.ts";
import type { PoolsSeen } from "../model/seen.ts";
import type { PoolsPart } from "../model/state.ts";
import { vacancyOf, whyFull } from "./vacancy.ts";

/** What rooms and queues see of instances. */
export const seenOfPools = (all: () => PoolsPart): PoolsSeen => ({
  instance: (id) => all().pools.instances.get(id),
  heldBy: (room) => heldBy(all().pools, room),
  vacancyOf: (rules, pool, at) => vacancyOf(all(), rules, pool, at),
  whyFull: (rules, asked) => whyFull(all(), rules, asked),
});
