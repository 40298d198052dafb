import type { Exported } from "../model/capability.ts";
import type { FleetCommand } from "../model/fleets/commands.ts";
import type { FleetEvent } from "../model/fleets/events.ts";
import { newFleetsState } from "../model/fleets/state.ts";
import { applyFleet, gone, joined } from "./apply.ts";
import { decideFleet } from "./decide.ts";

/** Machines that are ordered when the pools of a group need them, and given back when they do not. */
export const fleets = {
  names: ["fleet"],
  newState: () => ({ fleets: newFleetsState() }),
  decide: decideFleet,
  apply: applyFleet,
  describe: (_state, { kind, machine, why }) => {
    if (kind === "fleet.ordered") return `Machine ${machine} is ordered: ${why}.`;
    return kind === "fleet.failed"
      ? `Machine ${machine} does not come: ${why}.`
      : `Machine ${machine} is given back: ${why}.`;
  },
  due: {
    "fleet-group": (group) => ({ do: "fleet.consider", group }),
    "fleet-order": (machine) => ({ do: "fleet.fail", machine, why: "it has not joined in time" }),
  },
  /** What was ordered or given back may not have been said: a fleet is told again, by the same name. */
  recover: ({ fleets: known }) => [
    ...[...known.orders.values()].map(({ machine, group }) => ({ effect: "order-machine", machine, group }) as const),
    ...[...known.returns.values()].map(({ machine, group }) => ({ effect: "return-machine", machine, group }) as const),
  ],
  /** What changes with events of another capability. */
  also: { joined, gone },
} satisfies Exported<FleetCommand, FleetEvent>;
