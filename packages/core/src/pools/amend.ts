import { isGood, passEndsMs } from "../model/berths.ts";
import { accept, type Decision, nothingToDo, type PoolsContext } from "../model/decision.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import { heldBy, matchFor } from "../model/pools/holds.ts";
import type { InstanceMatch, MatchChange } from "../model/pools/state.ts";
import type { RoomSeen, RoomsSeen } from "../model/seen.ts";
import { newId } from "../model/stamp.ts";
import { wakeUp } from "./ending.ts";
import { accountOf, matchPlayer } from "./match-player.ts";

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

/** A berth for somebody who looks on, once the match is under way; who has one that counts keeps it. */
export function addSpectator(context: PoolsContext, { room, run, player }: Doing<"pool.add-spectator">): Decision {
  const { state, at, random } = context;
  const instance = heldBy(state.pools, room);
  const match = matchFor(instance, room);
  const seen = state.seen.rooms.room(room);
  const spectator = seen?.spectators.get(player);
  if (instance === undefined || match?.run !== run || spectator === undefined) return nothingToDo;
  const berth = match.berths.get(player);
  const isKept = berth?.state === "reserved" && berth.expiresAtMs !== null && berth.expiresAtMs > at;
  if (berth?.state === "taken" || isKept) return nothingToDo;
  const { name, place } = spectator;
  const account = accountOf(state.seen.rooms, player);
  return accept(
    [
      {
        kind: "instance.berth-added",
        instance: instance.id,
        number: instance.instructionsGiven + 1,
        run,
        room,
        pass: newId("b", random),
        expiresAtMs: passEndsMs(context, undefined),
        player: { id: player, name, place, ...(account !== undefined && { account }) },
        spectator: { delayMs: seen?.policy.spectators?.delayMs ?? 0 },
      },
    ],
    { effects: [wakeUp(instance)] },
  );
}

/** Tells the instance what of its match is other than it was told last: the host, the settings, players on another side. */
export function tellMatch({ state }: PoolsContext, { room: id }: Doing<"pool.tell-match">): Decision {
  const instance = heldBy(state.pools, id);
  const match = matchFor(instance, id);
  const room = state.seen.rooms.room(id);
  if (instance === undefined || match?.told === undefined || room === undefined || instance.isWatched)
    return nothingToDo;
  const changed = changeOf(state.seen.rooms, room, match, match.told);
  if (changed === undefined) return nothingToDo;
  const number = instance.instructionsGiven + 1;
  return accept([{ kind: "instance.match-changed", instance: instance.id, number, run: match.run, changed }], {
    effects: [wakeUp(instance)],
  });
}

function changeOf(
  seen: RoomsSeen,
  { id, host, settings }: RoomSeen,
  { berths }: InstanceMatch,
  told: NonNullable<InstanceMatch["told"]>,
): MatchChange | undefined {
  const isOther = (now: unknown, before: unknown) => JSON.stringify(now) !== JSON.stringify(before);
  const expected = [...berths.values()].filter(
    ({ state, player, spectator }) => state !== "left" && !spectator && told.players.has(player),
  );
  const players = expected
    .map(({ player, name, place }) => matchPlayer(seen, id, { id: player, name, place }))
    .filter((player) => isOther(player, told.players.get(player.id)));
  const changed: MatchChange = {
    ...(host !== null && host !== told.host && { host }),
    ...(isOther(settings, told.settings) && { settings }),
    ...(players.length > 0 && { players }),
  };
  return Object.keys(changed).length === 0 ? undefined : changed;
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
