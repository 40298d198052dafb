import { newDeadlines } from "../deadlines/index.ts";
import { deriveFrom } from "../model/derived.ts";
import type { Seen } from "../model/seen.ts";
import type { HarborState, KeptState } from "../model/state.ts";
import { pools } from "../pools/index.ts";
import { queues } from "../queues/index.ts";
import { capabilities } from "./capabilities.ts";
import { seenOfRooms } from "./seen-of-rooms.ts";

/** A harbor in which nothing has happened. */
export function newHarborState(): HarborState {
  const parts = capabilities.flatMap((one) => Object.entries(one.newState?.() ?? {}));
  const kept: unknown = Object.fromEntries([["deadlines", newDeadlines()], ...parts]);
  return wholeState(kept as KeptState);
}

/** What is kept, with all that is worked out of it. */
export function wholeState(kept: KeptState): HarborState {
  const all = () => state;
  const seen: Seen = {
    rooms: seenOfRooms(all),
    queues: queues.seen(all),
    pools: pools.seen(all),
  };
  const state: HarborState = { ...kept, derived: deriveFrom(kept.queues, kept.rooms), seen };
  return state;
}
