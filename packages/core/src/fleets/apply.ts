import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { FleetEvent } from "../model/fleets/events.ts";
import type { PoolsPart } from "../model/state.ts";

export function applyFleet({ fleets, machines, deadlines }: PoolsPart, event: FleetEvent, at: number): void {
  const { machine, group, why } = event;
  switch (event.kind) {
    case "fleet.ordered":
      fleets.orders.set(machine, { machine, group, atMs: at, why });
      return setDeadline(deadlines, "fleet-order", machine, event.joinByMs);
    case "fleet.failed": {
      fleets.orders.delete(machine);
      clearDeadline(deadlines, "fleet-order", machine);
      const inARow = (fleets.failures.get(group)?.inARow ?? 0) + 1;
      fleets.failures.set(group, { inARow, atMs: at, why });
      return;
    }
    case "fleet.returned":
      fleets.returns.set(machine, { machine, group, saidAtMs: at });
      machines.closed.set(machine, { mode: "cordoned", why: `given back: ${why}`, sinceMs: at, untilMs: null });
      return;
    default:
      assertNever(event);
  }
}

/** A machine has joined: what was ordered is here. */
export function joined({ fleets, deadlines }: PoolsPart, machine: string, group: string): void {
  if (!fleets.orders.delete(machine)) return;
  fleets.failures.delete(group);
  clearDeadline(deadlines, "fleet-order", machine);
}

/** One that is gone needs not be given back any more. */
export function gone({ fleets }: PoolsPart, machine: string): void {
  fleets.returns.delete(machine);
}
