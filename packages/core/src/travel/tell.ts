import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import type { TravelEvent } from "./events.ts";

/** The event in a sentence, from the state after it. */
export function tellTravel(state: HarborState, event: TravelEvent): string | undefined {
  const room = state.rooms.byId.get(event.room);
  const code = room?.code ?? event.room;
  switch (event.kind) {
    case "travel.called":
      return undefined;
    case "travel.retried":
      return `Room ${code} needs another instance (attempt ${event.attempt}): ${event.detail}`;
    case "travel.boarding":
      return `Room ${code} may board ${event.instance} at ${event.address.host}:${event.address.port}; the address answers.`;
    case "travel.arrived":
      return `${room?.members.get(event.player)?.name ?? event.player} has arrived.`;
    case "travel.joined":
      return `${event.player.name} goes along with room ${code}.`;
    case "travel.forgot":
      return undefined;
    case "travel.completed":
      return `Everybody of room ${code} has arrived.`;
    case "travel.failed":
      return `The travel of room ${code} is given up: ${event.detail}`;
    default:
      return assertNever(event);
  }
}
