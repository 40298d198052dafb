import { isGood, passEndsMs } from "../model/berths.ts";
import { accept, type Decision, nothingToDo, type PoolsContext } from "../model/decision.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import { heldBy, matchFor } from "../model/pools/holds.ts";
import { newId } from "../model/stamp.ts";
import { wakeUp } from "./ending.ts";
import { matchPlayer } from "./match-player.ts";

type Doing<K extends PoolCommand["do"]> = Extract<PoolCommand, { do: K }>;

/** One more player for a match that the instance was given already: a berth, a pass, and an instruction that says so. */
export function addBerth(context: PoolsContext, command: Doing<"pool.add-berth">): Decision {
  const { state, at, random } = context;
  const { room, run, player, anew, always } = command;
  const instance = heldBy(state.pools, room);
  const match = matchFor(instance, room);
  // No match was given yet: the player is among the travellers, and so in the order to come.
  if (instance === undefined || match?.run !== run) return nothingToDo;
  const travel = state.seen.rooms.travel(run);
  if (!always && isGood(match.berths.get(player.id), { anew, at, travel })) return nothingToDo;
  const number = instance.instructionsGiven + 1;
  const expiresAtMs = passEndsMs(context, travel);
  const pass = newId("b", random);
  return accept(
    [
      {
        kind: "instance.berth-added",
        instance: instance.id,
        number,
        run,
        room,
        pass,
        expiresAtMs,
        player: matchPlayer(state.seen.rooms, room, player),
      },
    ],
    { effects: [wakeUp(instance)] },
  );
}

/** Tells the instance that its match begins with who is there. */
export function startMatch({ state }: PoolsContext, { room, run, without }: Doing<"pool.start-match">): Decision {
  const instance = heldBy(state.pools, room);
  if (instance === undefined || matchFor(instance, room)?.run !== run) return nothingToDo;
  const number = instance.instructionsGiven + 1;
  return accept([{ kind: "instance.match-started", instance: instance.id, number, run, without }], {
    effects: [wakeUp(instance)],
  });
}

/** Tells the instance that its match is over, unless it has said so itself. */
export function endMatch({ state }: PoolsContext, { room, run, reason }: Doing<"pool.end-match">): Decision {
  const instance = heldBy(state.pools, room);
  if (instance === undefined || matchFor(instance, room)?.run !== run) return nothingToDo;
  const number = instance.instructionsGiven + 1;
  return accept([{ kind: "instance.match-ended", instance: instance.id, number, run, reason }], {
    effects: [wakeUp(instance)],
  });
}
