import type { InstanceView, PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { Push } from "../harbor/push.ts";
import type { HarborState } from "../harbor/state.ts";
import type { PoolEvent } from "./events.ts";
import type { Instance, OwedPass } from "./state.ts";

export function instanceView(instance: Instance): InstanceView {
  const { id, pool, build, state, why, changedAtMs, orderedAtMs, address, pid, room, match, gone, exitCode, signal } =
    instance;
  const berths = [...(match?.berths.values() ?? [])].map(({ player, name, state }) => ({ player, name, state }));
  return {
    ...{ id, pool, build, state, why, changedAtMs, orderedAtMs, address, berths },
    ...(pid !== null && { pid }),
    ...(room !== null && { room }),
    ...(match !== null && { run: match.run }),
    // Nothing of a view may be null: in a merge patch that means "remove".
    ...(gone && { exit: { ...(exitCode !== null && { code: exitCode }), ...(signal !== null && { signal }) } }),
  };
}

/** The pass of a member who may board and has not: all of it but the signature. */
export function owedPass(state: HarborState, roomId: RoomId, player: PlayerId): OwedPass | undefined {
  const room = state.rooms.byId.get(roomId);
  const run = room?.run;
  if (room === undefined || run == null) return undefined;
  const travel = state.travels.byRun.get(run);
  const destination = travel === undefined ? room.destination : travel.destination;
  if (destination === null) return undefined;
  const { instance, address } = destination;
  const match = state.pools.instances.get(instance)?.match;
  const berth = match?.berths.get(player);
  if (match == null || match.run !== run || berth?.state !== "reserved") return undefined;
  const expiresAtMs = berth.expiresAtMs ?? travel?.deadlineMs;
  if (expiresAtMs === undefined) return undefined;
  const { level } = match;
  return { pass: berth.pass, player, room: room.id, run, level, instance, address, expiresAtMs };
}

/** A player who follows a match under way is sent its pass at once. */
export function poolPushes(state: HarborState, event: PoolEvent): Push[] {
  if (event.kind !== "instance.berth-added") return [];
  const pass = owedPass(state, event.room, event.player.id);
  return pass === undefined ? [] : [{ scope: "pass", to: event.player.id, pass }];
}
