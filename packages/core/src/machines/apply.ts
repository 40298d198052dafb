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
    default:
      assertNever(event);
  }
}
