import type { Address, BuildSpec, InstanceView, PlayerId, RoomId } from "@yellow-harbor/protocol";
import { specOf } from "../builds/index.ts";
import type { Berth } from "../harbor/berth.ts";
import type { Destination } from "../harbor/destination.ts";
import { placeOf, runOf } from "../harbor/find-room.ts";
import type { Push } from "../harbor/push.ts";
import type { HarborState } from "../harbor/state.ts";
import type { PoolEvent } from "./events.ts";
import { matchesOf, matchFor, matchOfRun } from "./holds.ts";
import type { Instance, OwedPass } from "./state.ts";
import { DIFFERENCE } from "./tell.ts";

export function instanceView(instance: Instance): InstanceView {
  const { id, pool, build, version, machine, region, state, why, changedAtMs, orderedAtMs, startedAtMs } = instance;
  const { address, ports, capacity, pid, holds, gone, exitCode, signal, differences } = instance;
  const berths = matchesOf(instance).flatMap(({ room, berths }) =>
    [...berths.values()].map(({ player, name, state }) => ({ player, name, state, room })),
  );
  return {
    id,
    pool,
    build,
    version,
    machine,
    state,
    why,
    changedAtMs,
    orderedAtMs,
    address,
    berths,
    rooms: [...holds].map(([room, match]) => ({ room, ...(match && { run: match.run, level: match.level }) })),
    ...(region !== null && { region }),
    ...(capacity.rooms > 1 && { roomsMost: capacity.rooms }),
    ...(Object.keys(ports).length > 0 && { ports }),
    ...(startedAtMs !== null && { startedAtMs }),
    ...(pid !== null && { pid }),
    ...(differences.size > 0 && {
      differences: [...differences].map(([player, { what, sinceMs }]) => ({
        player,
        what,
        sinceMs,
        text: `${player}: ${DIFFERENCE[what]}`,
      })),
    }),
    // Nothing of a view may be null: in a merge patch that means "remove".
    ...(gone && { exit: { ...(exitCode !== null && { code: exitCode }), ...(signal !== null && { signal }) } }),
  };
}

/** The pass of a member who may board and has not: all of it but the signature. */
export function owedPass(state: HarborState, roomId: RoomId, player: PlayerId): OwedPass | undefined {
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
function keptAt(state: HarborState, room: RoomId, destination: Destination): Kept | undefined {
  switch (destination.by) {
    case "relayed":
      return undefined;
    case "dedicated": {
      const { instance, address } = destination;
      const match = matchFor(state.pools.instances.get(instance), room);
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

/** A player who follows a match under way is sent its pass at once. */
export function poolPushes(state: HarborState, event: PoolEvent): Push[] {
  if (event.kind !== "instance.berth-added") return [];
  const pass = owedPass(state, event.room, event.player.id);
  return pass === undefined ? [] : [{ scope: "pass", to: event.player.id, pass }];
}

/** Where a player who shows this pass is let through to, and what is spoken there; undefined when no berth is kept for it. */
export function relayDoor(
  state: HarborState,
  id: string,
  { player, pass, run }: { readonly player: PlayerId; readonly pass: string; readonly run: string },
): { readonly address: Address; readonly speaks: BuildSpec["speaks"] } | undefined {
  const instance = state.pools.instances.get(id);
  if (instance === undefined || instance.gone) return undefined;
  const berth = matchOfRun(instance, run)?.berths.get(player);
  if (berth?.pass !== pass || berth.state === "left") return undefined;
  const { build, version, address } = instance;
  return { address, speaks: specOf(state, build, version)?.speaks ?? "tcp" };
}
