import { type Address, type InstanceView, morePortsOf, type PlayerId, type Transport } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf, matchOfRun } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import type { Delivery } from "../model/push.ts";
import type { PoolsPart } from "../model/state.ts";
import { DIFFERENCE } from "./describe.ts";

/** What the ports beside its own speak, of those that do not speak TCP. */
function transportsOf(state: PoolsPart, { build, version }: Instance): [string, Transport][] {
  const spec = builds.views.spec(state, build, version);
  return spec === undefined ? [] : morePortsOf(spec).filter(([, transport]) => transport !== "tcp");
}

export function instanceView(state: PoolsPart, instance: Instance): InstanceView {
  const { id, pool, build, version, machine, region, why, changedAtMs, launchedAtMs, startedAtMs } = instance;
  const { address, ports, capacity, placed, pid, holds, gone, exitCode, signal, differences } = instance;
  const transports = transportsOf(state, instance);
  const berths = matchesOf(instance).flatMap(({ room, berths }) =>
    [...berths.values()].map(({ player, name, state }) => ({ player, name, state, room })),
  );
  return {
    id,
    pool,
    build,
    version,
    machine,
    state: instance.state,
    why,
    changedAtMs,
    launchedAtMs,
    address,
    berths,
    rooms: [...holds].map(([room, match]) => ({ room, ...(match && { run: match.run, level: match.level }) })),
    ...(region !== null && { region }),
    ...(placed !== null && { placed }),
    ...(capacity.rooms > 1 && { maxRooms: capacity.rooms }),
    ...(Object.keys(ports).length > 0 && { ports }),
    ...(transports.length > 0 && { transports: Object.fromEntries(transports) }),
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

/** Where a player who shows this pass is let through to; undefined when no berth is kept for it. */
export function relayDoor(
  state: PoolsPart,
  id: string,
  { player, pass, run }: { readonly player: PlayerId; readonly pass: string; readonly run: string },
): Address | undefined {
  const instance = state.pools.instances.get(id);
  if (instance === undefined || instance.gone) return undefined;
  const berth = matchOfRun(instance, run)?.berths.get(player);
  if (berth?.pass !== pass || berth.state === "left") return undefined;
  return instance.address;
}
