import type { MachineView } from "@yellow-harbor/protocol";
import type { MachineOrder } from "../model/fleets/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { machineNames, machineRules } from "./known.ts";

/** All machines of the configuration, with what runs on each. */
export function machineViews(state: PoolsPart, rules: HarborRules): MachineView[] {
  const { machines, pools } = state;
  const views = machineNames(state, rules).flatMap((id) => {
    const machine = machineRules(state, rules, id);
    if (machine === undefined) return [];
    const { driver, region, host, max, preemptible } = machine;
    const running = pools.onMachine.get(id) ?? 0;
    const closed = machines.closed.get(id);
    const measured = machines.measured.get(id);
    const load = pools.loads.get(id);
    const cpus = machine.cpus ?? measured?.cpus;
    const memoryMb = machine.memoryMb ?? measured?.memoryMb;
    const agent = machines.agents.get(id);
    const isThere = driver === "agent" ? agent?.isThere === true : true;
    const group = machines.enrolled.get(id)?.group;
    const view: MachineView = {
      id,
      driver,
      host,
      max,
      running,
      isThere,
      ...(region !== null && { region }),
      ...(group !== undefined && { group }),
      ...(driver === "agent" && { why: agent?.why ?? "its agent has never connected; run `yh agent` there" }),
      ...(agent !== undefined && { sinceMs: agent.sinceMs }),
      ...(closed && { mode: closed.mode, why: closed.why, sinceMs: closed.sinceMs }),
      ...(closed?.untilMs != null && { untilMs: closed.untilMs }),
      ...(cpus !== undefined && { cpus: { all: cpus, reserved: load?.cpus ?? 0 } }),
      ...(memoryMb !== undefined && { memoryMb: { all: memoryMb, reserved: load?.memoryMb ?? 0 } }),
      ...(measured && { load: measured.load, memoryFreeMb: measured.memoryFreeMb }),
      ...(preemptible && { preemptible }),
    };
    return [view];
  });
  return [...views, ...[...state.fleets.orders.values()].flatMap((one) => orderedView(rules, one))];
}

/** One that was ordered and has not joined yet. */
function orderedView({ machineGroups }: HarborRules, { machine, group, atMs, why }: MachineOrder): MachineView[] {
  const alike = machineGroups.get(group);
  if (alike === undefined) return [];
  const { max, region } = alike;
  const where = { driver: "agent", group, host: "-", max, running: 0, isThere: false } as const;
  return [{ id: machine, ...where, ...(region !== null && { region }), sinceMs: atMs, why: `ordered: ${why}` }];
}
