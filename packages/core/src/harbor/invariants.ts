import { hasDeadline } from "../deadlines/index.ts";
import type { HarborState } from "../model/state.ts";
import { capabilities } from "./capabilities.ts";

/**
 * What must never be in a state, each in a sentence; none in a sound one. For tests, simulations and copies of the data
 * that are about to be relied on: it looks at everything, and takes a time in proportion.
 */
export const invariantViolations = (state: HarborState): string[] => [
  ...capabilities.flatMap((one) => one.invariants?.(state) ?? []),
  ...waitingFaults(state),
];

/** What waits without a deadline waits for ever. */
const waitingFaults = (state: HarborState): string[] =>
  capabilities
    .flatMap((one) => one.waits?.(state) ?? [])
    .filter(([kind, subject]) => !hasDeadline(state.deadlines, kind, subject))
    .map(([kind, subject]) => `${subject} waits without its deadline ${kind}`);
