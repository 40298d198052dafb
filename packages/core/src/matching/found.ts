import type { Line } from "./line.ts";
import type { Packing } from "./packing.ts";

/** Tickets that can be in a match together. */
export interface Found {
  readonly line: Line;
  /** Slots of the tickets; the one searched for comes first. */
  readonly slots: readonly number[];
  readonly score: number;
  readonly packing: Packing;
}

export interface Reach {
  /** How many more candidates of each size are taken than a match can hold, each way; doubled when that was too few. */
  readonly slack: number;
  /** Most steps of the search. */
  readonly steps: number;
}
