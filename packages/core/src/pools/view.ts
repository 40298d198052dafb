import type { InstanceView, PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { Berth } from "../harbor/berth.ts";
import type { Destination } from "../harbor/destination.ts";
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
  const kept = destination === null ? undefined : keptAt(state, roomId, destination);
  const berth = kept?.berths.get(player);
  if (kept === undefined || kept.run !== run || berth?.state !== "reserved") return undefined;
  const expiresAtMs = berth.expiresAtMs ?? travel?.deadlineMs;
  if (expiresAtMs === undefined) return undefined;
  const { level, to, address } = kept;
  return { pass: berth.pass, player, room: room.id, run, level, to, address, expiresAtMs };
}

type Kept = Pick<OwedPass, "run" | "level" | "to" | "address"> & { readonly berths: ReadonlyMap<PlayerId, Berth> };

/** What is kept where a room goes: by the instance's match, or by the member's world. */
function keptAt(state: HarborState, room: RoomId, destination: Destination): Kept | undefined {
  switch (destination.by) {
    case "relayed":
      return undefined;
    case "dedicated": {
      const { instance, address } = destination;
      const match = state.pools.instances.get(instance)?.match;
      return match == null ? undefined : { ...match, to: { instance }, address };
    }
    case "player-hosted": {
      const world = state.travels.worlds.get(room);
      const address = world?.addresses[0];
      return world === undefined || address === undefined
        ? undefined
        : { ...world, to: { player: world.player }, address };
    }
  }
}

/** A player who follows a match under way is sent its pass at once. */
export function poolPushes(state: HarborState, event: PoolEvent): Push[] {
  if (event.kind !== "instance.berth-added") return [];
  const pass = owedPass(state, event.room, event.player.id);
  return pass === undefined ? [] : [{ scope: "pass", to: event.player.id, pass }];
}
