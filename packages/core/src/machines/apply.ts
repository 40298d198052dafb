import { assertNever } from "../model/decision.ts";
import type { MachineEvent } from "../model/machines/events.ts";
import type { PoolsPart } from "../model/state.ts";

export function applyMachine({ machines }: PoolsPart, event: MachineEvent, at: number): void {
  const { machine } = event;
  switch (event.kind) {
    case "machine.joined":
      machines.agents.set(machine, { machine, isThere: true, sinceMs: at, why: `connected from ${event.from}` });
      return;
    case "machine.lost":
      machines.agents.set(machine, { machine, isThere: false, sinceMs: at, why: event.why });
      return;
    case "machine.measured":
      machines.measured.set(machine, event.measure);
      return;
    case "machine.mode-set": {
      const { mode, why, untilMs = null } = event;
      if (mode === "open") machines.closed.delete(machine);
      else machines.closed.set(machine, { mode, why, sinceMs: at, untilMs });
      return;
    }
    default:
      assertNever(event);
  }
}
