import { assertNever } from "../model/decision.ts";
import type { MachineEvent } from "../model/machines/events.ts";

/** The event in a sentence. */
export function describeMachine(event: MachineEvent): string {
  switch (event.kind) {
    case "machine.joined":
      return `Machine ${event.machine} has joined, from ${event.from}.`;
    case "machine.enrolled":
      return `Machine ${event.machine} joins group ${event.group}; players reach it at ${event.host}.`;
    case "machine.removed":
      return `Machine ${event.machine} is forgotten: ${event.why}.`;
    case "machine.lost":
      return `Machine ${event.machine} is lost: ${event.why}. Its instances run on; nothing new is started there.`;
    case "machine.measured": {
      const { cpus, memoryMb, load, memoryFreeMb } = event.measure;
      return `Machine ${event.machine} uses ${Math.round(load * 100)} % of ${cpus} CPUs, and has ${memoryFreeMb} of ${memoryMb} MiB free.`;
    }
    case "machine.mode-set":
      return `Machine ${event.machine} is ${event.why}.`;
    default:
      return assertNever(event);
  }
}
