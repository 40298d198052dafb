import type { Match } from "./match.ts";

export interface PassOptions {
  /** Tickets looked at or held against each other after which the pass stops and leaves the rest for the next call. */
  readonly work?: number;
  /** Matches after which it stops as well: each is work for whoever takes it. */
  readonly max?: number;
  /** How many newcomers are looked at in one pass, the longest waiting first; the others have their turn in the next. */
  readonly newcomers?: number;
  /** How many tickets that were looked at before are looked at again. */
  readonly examinedAgain?: number;
  /** How many matches can be played in each region, in the order of the rules; any number when absent. */
  readonly rooms?: readonly number[] | undefined;
}

export interface PassResult {
  readonly matches: readonly Match[];
  /** Whether some tickets are still to be looked at: call again. */
  readonly hasMore: boolean;
  readonly looks: number;
  /** Tickets that were looked at or held against each other. */
  readonly work: number;
}
