import type { DueKind } from "../model/due.ts";
import type { PoolsPart } from "../model/state.ts";

/** What of the instances waits for a time. */
export const poolsWaiting = ({ pools }: PoolsPart): [kind: DueKind, subject: string][] =>
  [...pools.instances.values()].flatMap(({ id, state, gone }): [kind: DueKind, subject: string][] => {
    if (gone) return [["instance-forget", id]];
    return state === "launched" || state === "booting" ? [["instance-boot", id]] : [];
  });
