import { heldBy } from "../model/pools/holds.ts";
import type { PoolsSeen } from "../model/seen.ts";
import type { PoolsPart } from "../model/state.ts";
import { roomsLeftIn } from "./vacancy.ts";

/** What rooms and queues see of instances. */
export const seenOfPools = (all: () => PoolsPart): PoolsSeen => ({
  instance: (id) => all().pools.instances.get(id),
  heldBy: (room) => heldBy(all().pools, room),
  roomsLeftIn: (rules, pool, at) => roomsLeftIn(all(), rules, pool, at),
  liveOf: (pool) => all().pools.live.get(pool) ?? 0,
});
