import type { ConfigName } from "@yellow-harbor/protocol";
import { specOf } from "../builds/index.ts";
import type { Effect } from "../harbor/effect.ts";
import type { HarborState } from "../harbor/state.ts";
import type { Instance } from "./state.ts";

/** After a restart, or when a machine is back: what has to be done again or looked after, since the service may have died before it was done. */
export function recoveryEffects(state: HarborState, machine?: ConfigName): Effect[] {
  return [...state.pools.instances.values()]
    .filter((instance) => !instance.gone && (machine === undefined || instance.machine === machine))
    .flatMap((instance) => effectsFor(state, instance));
}

function effectsFor(state: HarborState, instance: Instance): Effect[] {
  const { id, pool, build, version, machine, address, ports, pid } = instance;
  const spec = specOf(state, build, version);
  // Whether it was started nobody wrote down; the driver starts it only if it does not run.
  if (instance.state === "ordered" && spec) {
    const room = [...instance.holds.keys()][0];
    const level = room === undefined ? null : (state.rooms.byId.get(room)?.level?.id ?? null);
    return [{ effect: "start-instance", instance: id, pool, build, version, spec, machine, address, ports, level }];
  }
  const watch: Effect = { effect: "watch-instance", instance: id, pid: pid ?? 0 };
  if (instance.state === "failed") return [watch, { effect: "signal-instance", instance: id, signal: "kill" }];
  const isReadyByPort = instance.isWatched && spec?.ready === "port";
  if (instance.state === "booting" && (instance.announced || isReadyByPort)) {
    return [watch, { effect: "probe-instance", instance: id, address }];
  }
  return [watch];
}
