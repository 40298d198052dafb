import type { ConfigName } from "@yellow-harbor/protocol";

/** A computer on which an agent runs. */
export interface AgentMachine {
  readonly machine: ConfigName;
  isThere: boolean;
  sinceMs: number;
  why: string;
}

export interface MachinesState {
  readonly agents: Map<ConfigName, AgentMachine>;
}

export const newMachinesState = (): MachinesState => ({ agents: new Map() });
