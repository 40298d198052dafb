import { assertNever } from "../model/decision.ts";
import type { MachineEvent } from "../model/machines/events.ts";

/** The event in a sentence. */
export function describeMachine(event: MachineEvent): string {
  switch (event.kind) {
    case "machine.joined":
      return `Machine ${event.machine} has joined, from ${event.from}.`;
    case "machine.lost":
      return `Machine ${event.machine} is lost: ${event.why}. Its instances run on; nothing new is started there.`;
    default:
      return assertNever(event);
  }
}
