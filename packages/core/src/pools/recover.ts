import type { Effect } from "../harbor/effect.ts";
import type { HarborState } from "../harbor/state.ts";
import type { Instance } from "./state.ts";

/** After a restart: what has to be done again or looked after, since the service may have died before it was done. */
export function recoveryEffects(state: HarborState): Effect[] {
  return [...state.pools.instances.values()].filter((instance) => !instance.gone).flatMap(effectsFor);
}

function effectsFor(instance: Instance): Effect[] {
  const { id, pool, build, address, pid } = instance;
  // Whether it was started nobody wrote down; the driver starts it only if it does not run.
  if (instance.state === "ordered") return [{ effect: "start-instance", instance: id, pool, build, address }];
  const watch: Effect = { effect: "watch-instance", instance: id, pid: pid ?? 0 };
  if (instance.state === "failed") return [watch, { effect: "signal-instance", instance: id, signal: "kill" }];
  if (instance.state === "booting" && instance.announced) {
    return [watch, { effect: "probe-instance", instance: id, address }];
  }
  return [watch];
}
