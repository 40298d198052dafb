import type { Effect } from "../model/effect.ts";
import type { RoomsPart } from "../model/state.ts";

/** After a restart: worlds that were offered and not yet probed. */
export function probesToRepeat({ travels }: RoomsPart): Effect[] {
  return [...travels.byRun.values()].flatMap(({ run, step, hosting }): Effect[] => {
    if (step !== "preparing" || hosting === null || hosting.offered === null) return [];
    return [{ effect: "probe-world", run, player: hosting.player, addresses: hosting.offered }];
  });
}
