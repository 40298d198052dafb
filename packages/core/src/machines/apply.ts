import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { MachineEvent } from "../model/machines/events.ts";
import type { PoolsPart } from "../model/state.ts";

export function applyMachine({ machines, pools, deadlines }: PoolsPart, event: MachineEvent, at: number): void {
  const { machine } = event;
  switch (event.kind) {
    case "machine.enrolled":
      machines.enrolled.set(machine, { machine, group: event.group, host: event.host });
      return;
    case "machine.removed":
      for (const known of [machines.enrolled, machines.agents, machines.closed, machines.measured])
        known.delete(machine);
      pools.idleSinceMs.delete(machine);
      clearDeadline(deadlines, "machine-forget", machine);
      return;
    case "machine.joined":
      clearDeadline(deadlines, "machine-forget", machine);
      machines.agents.set(machine, { machine, isThere: true, sinceMs: at, why: `connected from ${event.from}` });
      return;
    case "machine.lost":
      if (event.forgetAtMs !== undefined) setDeadline(deadlines, "machine-forget", machine, event.forgetAtMs);
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
