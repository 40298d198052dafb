import type { ConfigName, MachineMode } from "@yellow-harbor/protocol";

/** A computer on which an agent runs. */
export interface AgentMachine {
  readonly machine: ConfigName;
  isThere: boolean;
  sinceMs: number;
  why: string;
}

/** What operators have said of a machine that is not open. */
export interface ClosedMachine {
  readonly mode: Exclude<MachineMode, "open">;
  readonly why: string;
  readonly sinceMs: number;
  /** Until when what runs there may go on while it drains, where that was said. */
  readonly untilMs: number | null;
}

/** What a machine says of itself. */
export interface Measure {
  readonly cpus: number;
  readonly memoryMb: number;
  /** Share of the CPUs that is in use. */
  readonly load: number;
  readonly memoryFreeMb: number;
}

export interface MachinesState {
  readonly agents: Map<ConfigName, AgentMachine>;
  readonly closed: Map<ConfigName, ClosedMachine>;
  readonly measured: Map<ConfigName, Measure>;
}

export const newMachinesState = (): MachinesState => ({ agents: new Map(), closed: new Map(), measured: new Map() });
