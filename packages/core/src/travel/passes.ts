import type { PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { Berth } from "../model/berth.ts";
import type { Destination } from "../model/destination.ts";
import { placeOf, runOf } from "../model/find-room.ts";
import { matchFor } from "../model/pools/holds.ts";
import type { OwedPass } from "../model/pools/state.ts";
import type { RoomsPart } from "../model/state.ts";

/** The pass of a member who may board and has not: all of it but the signature. */
export function owedPass(state: RoomsPart, roomId: RoomId, player: PlayerId): OwedPass | undefined {
  const room = state.rooms.byId.get(roomId);
  const run = runOf(room);
  if (room === undefined || run == null) return undefined;
  const travel = state.travels.byRun.get(run);
  const destination = travel === undefined ? placeOf(room) : travel.destination;
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
function keptAt(state: RoomsPart, room: RoomId, destination: Destination): Kept | undefined {
  switch (destination.by) {
    case "relayed":
      return undefined;
    case "dedicated": {
      const { instance, address } = destination;
      const match = matchFor(state.seen.pools.instance(instance), room);
      return match === undefined ? undefined : { ...match, to: { instance }, address };
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
