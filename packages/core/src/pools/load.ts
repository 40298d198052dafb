import type { Instance, MachineLoad } from "../model/pools/state.ts";

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
