import type { Instance, MachineLoad } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";
import { meterMachine } from "./meter.ts";

const NOTHING: MachineLoad = { cpus: 0, memoryMb: 0, lines: new Map() };

/** What a machine's instances take together, with one more or one less. */
export function loadWith(
  load: MachineLoad = NOTHING,
  { build, needs }: Pick<Instance, "build" | "needs">,
  change: 1 | -1,
): MachineLoad {
  const lines = new Map(load.lines);
  const many = (lines.get(build) ?? 0) + change;
  if (many > 0) lines.set(build, many);
  else lines.delete(build);
  return {
    // To a thousandth: sums of parts of CPUs come to nothing again.
    cpus: Math.round((load.cpus + change * needs.cpus) * 1_000) / 1_000,
    memoryMb: load.memoryMb + change * needs.memoryMb,
    lines,
  };
}

/** Counts one more, or one less, on its machine. */
export function countOnMachine(
  state: PoolsPart,
  { machine, build, needs }: Instance,
  change: 1 | -1,
  at: number,
): void {
  const { onMachine, idleSinceMs, loads, meter } = state.pools;
  const running = Math.max(0, (onMachine.get(machine) ?? 0) + change);
  meterMachine(meter, machine, running, at);
  if (running > 0) {
    onMachine.set(machine, running);
    loads.set(machine, loadWith(loads.get(machine), { build, needs }, change));
    idleSinceMs.delete(machine);
    return;
  }
  // Nothing is kept of machines that come and go, once nothing runs on them.
  onMachine.delete(machine);
  loads.delete(machine);
  if (state.machines.enrolled.has(machine)) idleSinceMs.set(machine, at);
}
