import type { ConfigName } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { Effect } from "../model/effect.ts";
import type { Instance } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";
import { isReadyByPort, probeEffect } from "./probing.ts";

/** After a restart, or when a machine is back: what has to be done again or looked after, since the service may have died before it was done. */
export function recoveryEffects(state: PoolsPart, machine?: ConfigName): Effect[] {
  return [...state.pools.instances.values()]
    .filter((instance) => !instance.gone && (machine === undefined || instance.machine === machine))
    .flatMap((instance) => effectsFor(state, instance));
}

function effectsFor(state: PoolsPart, instance: Instance): Effect[] {
  const { id, pool, build, version, machine, address, ports, client, pid } = instance;
  const spec = builds.views.spec(state, build, version);
  // Whether it was started nobody wrote down; the driver starts it only if it does not run.
  if (instance.state === "launched" && spec) {
    const room = [...instance.holds.keys()][0];
    const level = room === undefined ? null : (state.seen.rooms.room(room)?.level?.id ?? null);
    return [
      { effect: "start-instance", instance: id, pool, build, version, spec, machine, address, ports, level, client },
    ];
  }
  const watch: Effect = { effect: "watch-instance", instance: id, pid: pid ?? 0 };
  if (instance.state === "failed") return [watch, { effect: "signal-instance", instance: id, signal: "kill" }];
  if (instance.state === "booting" && (instance.announced || isReadyByPort(state, instance))) {
    return [watch, probeEffect(state, instance)];
  }
  return [watch];
}
