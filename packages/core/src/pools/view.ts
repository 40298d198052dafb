import type { Address, BuildSpec, InstanceView, PlayerId } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf, matchOfRun } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import type { Delivery } from "../model/push.ts";
import type { PoolsPart } from "../model/state.ts";
import { DIFFERENCE } from "./describe.ts";

export function instanceView(instance: Instance): InstanceView {
  const { id, pool, build, version, machine, region, state, why, changedAtMs, launchedAtMs, startedAtMs } = instance;
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
    launchedAtMs,
    address,
    berths,
    rooms: [...holds].map(([room, match]) => ({ room, ...(match && { run: match.run, level: match.level }) })),
    ...(region !== null && { region }),
    ...(capacity.rooms > 1 && { maxRooms: capacity.rooms }),
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

/** A player who follows a match under way is sent its pass at once. */
export function poolPushes(state: PoolsPart, event: PoolEvent): Delivery[] {
  if (event.kind !== "instance.berth-added") return [];
  const pass = state.seen.rooms.owedPass(event.room, event.player.id);
  return pass === undefined ? [] : [{ scope: "pass", to: event.player.id, pass }];
}

/** Where a player who shows this pass is let through to, and what is spoken there; undefined when no berth is kept for it. */
export function relayDoor(
  state: PoolsPart,
  id: string,
  { player, pass, run }: { readonly player: PlayerId; readonly pass: string; readonly run: string },
): { readonly address: Address; readonly speaks: BuildSpec["speaks"] } | undefined {
  const instance = state.pools.instances.get(id);
  if (instance === undefined || instance.gone) return undefined;
  const berth = matchOfRun(instance, run)?.berths.get(player);
  if (berth?.pass !== pass || berth.state === "left") return undefined;
  const { build, version, address } = instance;
  return { address, speaks: builds.views.spec(state, build, version)?.speaks ?? "tcp" };
}
