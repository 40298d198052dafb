import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import type { MachineEvent } from "./events.ts";

export function applyMachine({ machines }: HarborState, event: MachineEvent, at: number): void {
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
