import type { ConfigName } from "@yellow-harbor/protocol";

/** A machine that was ordered, and has not joined its group yet. */
export interface MachineOrder {
  readonly machine: ConfigName;
  readonly group: ConfigName;
  readonly atMs: number;
  readonly why: string;
}

/** One that is given back, and is still known. */
export interface MachineReturn {
  readonly machine: ConfigName;
  readonly group: ConfigName;
  /** When it was last said that it is to go. */
  readonly saidAtMs: number;
}

/** Orders in a row of which no machine came, with the last reason. */
export interface OrderFailures {
  readonly inARow: number;
  readonly atMs: number;
  readonly why: string;
}

export interface FleetsState {
  readonly orders: Map<ConfigName, MachineOrder>;
  readonly returns: Map<ConfigName, MachineReturn>;
  readonly failures: Map<ConfigName, OrderFailures>;
}

export const newFleetsState = (): FleetsState => ({ orders: new Map(), returns: new Map(), failures: new Map() });
