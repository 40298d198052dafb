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

/** A machine that has joined a group by itself. */
export interface EnrolledMachine {
  readonly machine: ConfigName;
  readonly group: ConfigName;
  /** Host at which players reach its instances, by its own word. */
  readonly host: string;
}

export interface MachinesState {
  readonly enrolled: Map<ConfigName, EnrolledMachine>;
  readonly agents: Map<ConfigName, AgentMachine>;
  readonly closed: Map<ConfigName, ClosedMachine>;
  readonly measured: Map<ConfigName, Measure>;
}

export const newMachinesState = (): MachinesState => ({
  enrolled: new Map(),
  agents: new Map(),
  closed: new Map(),
  measured: new Map(),
});
