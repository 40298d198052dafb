import type { BuildSpec, ConfigName, MachineMode, MachineRules, PoolRules } from "@yellow-harbor/protocol";
import { machines as allMachines } from "../machines/index.ts";
import type { Needs } from "../model/pools/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";

/** A machine of a pool, and what is free on it. */
export interface Slot {
  readonly id: ConfigName;
  readonly rules: MachineRules;
  readonly running: number;
  readonly isThere: boolean;
  readonly mode: MachineMode;
  /** Instances of the pool's build line on it. */
  readonly alike: number;
  readonly cpus: Amount | undefined;
  readonly memoryMb: Amount | undefined;
  /** By its own word: the share of its CPUs in use, and the memory that is free. */
  readonly load: number | undefined;
  readonly reportedMb: number | undefined;
}

interface Amount {
  readonly all: number;
  readonly free: number;
}

export const needsOf = ({ needs: { cpus = 0, memoryMb = 0 } }: Pick<BuildSpec, "needs">): Needs => ({ cpus, memoryMb });

const ofMachines = allMachines.views;

/** The machines of a pool, for an instance of a build line. */
export function slotsOf(state: PoolsPart, rules: HarborRules, pool: PoolRules, line = pool.build): Slot[] {
  const { pools, machines } = state;
  const slots: Slot[] = [];
  for (const id of pool.machines.flatMap((name) => ofMachines.named(state, rules, name))) {
    const known = ofMachines.rulesOf(state, rules, id);
    if (known === undefined) continue;
    const load = pools.loads.get(id);
    const measured = machines.measured.get(id);
    slots.push({
      id,
      rules: known,
      running: pools.onMachine.get(id) ?? 0,
      isThere: known.driver !== "agent" || machines.agents.get(id)?.isThere === true,
      mode: machines.closed.get(id)?.mode ?? "open",
      alike: load?.lines.get(line) ?? 0,
      cpus: amount(known.cpus ?? measured?.cpus, load?.cpus),
      memoryMb: amount(known.memoryMb ?? measured?.memoryMb, load?.memoryMb),
      load: measured?.load,
      reportedMb: measured?.memoryFreeMb,
    });
  }
  return slots;
}

const amount = (all: number | undefined, used = 0): Amount | undefined =>
  all === undefined ? undefined : { all, free: Math.max(0, all - used) };

/** How many more instances with such needs it takes. */
export function fitsOn(slot: Slot, { cpus, memoryMb }: Needs): number {
  if (!slot.isThere || slot.mode !== "open") return 0;
  let many = Math.max(0, slot.rules.max - slot.running);
  // A hair more than what is needed counts as that: parts of CPUs are no whole numbers.
  if (cpus > 0 && slot.cpus) many = Math.min(many, Math.floor(slot.cpus.free / cpus + 1e-9));
  if (memoryMb > 0 && slot.memoryMb) many = Math.min(many, Math.floor(slot.memoryMb.free / memoryMb));
  if (memoryMb > 0 && slot.reportedMb !== undefined) many = Math.min(many, Math.floor(slot.reportedMb / memoryMb));
  return many;
}

/** Why it takes no more, as what follows its name; undefined when it does. */
export function whyNotOn(slot: Slot, needs: Needs): string | undefined {
  const { rules, running, isThere, mode, cpus, memoryMb, reportedMb } = slot;
  if (!isThere) return "is away";
  if (mode !== "open") return `is ${mode}`;
  if (running >= rules.max) return `runs ${running} of the ${rules.max} instances it may`;
  if (cpus && cpus.free + 1e-9 < needs.cpus)
    return `has ${figure(cpus.free)} of ${figure(cpus.all)} CPUs free, and ${figure(needs.cpus)} are needed`;
  if (memoryMb && memoryMb.free < needs.memoryMb)
    return `has ${memoryMb.free} of ${memoryMb.all} MiB free, and ${needs.memoryMb} are needed`;
  if (needs.memoryMb > 0 && reportedMb !== undefined && reportedMb < needs.memoryMb)
    return `reports ${reportedMb} MiB of memory free, and ${needs.memoryMb} are needed`;
  return undefined;
}

export const figure = (value: number): string => String(Math.round(value * 100) / 100);
