import type { MachineView } from "@yellow-harbor/protocol";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";

/** All machines of the configuration, with what runs on each. */
export function machineViews({ machines, pools }: PoolsPart, rules: HarborRules): MachineView[] {
  return [...rules.machines].map(([id, { driver, region, host, max }]) => {
    const running = [...pools.instances.values()].filter((one) => !one.gone && one.machine === id).length;
    const agent = machines.agents.get(id);
    const isThere = driver === "agent" ? agent?.isThere === true : true;
    return {
      id,
      driver,
      host,
      max,
      running,
      isThere,
      ...(region !== null && { region }),
      ...(driver === "agent" && { why: agent?.why ?? "its agent has never connected; run `yh agent` there" }),
      ...(agent !== undefined && { sinceMs: agent.sinceMs }),
    };
  });
}
