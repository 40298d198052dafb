import { addressText } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { Destination } from "../model/destination.ts";
import type { RoomsPart } from "../model/state.ts";
import type { TravelEvent } from "../model/travel/events.ts";

/** The event in a sentence, from the state after it. */
export function describeTravel(state: RoomsPart, event: TravelEvent): string | undefined {
  const room = state.rooms.byId.get(event.room);
  const code = room?.code ?? event.room;
  const name = (id: string) => room?.members.get(id)?.name ?? id;
  switch (event.kind) {
    case "travel.called":
    case "travel.forgot":
    case "travel.progressed":
    case "travel.berth-freed":
      return undefined;
    case "travel.boarded":
      return `${name(event.player)} is let into the world of room ${code}.`;
    case "travel.retried":
      return `Room ${code} needs another instance (attempt ${event.attempt}): ${event.detail}`;
    case "travel.rerouted":
      return `Room ${code} goes another way, ${event.by}: ${event.why}`;
    case "travel.host-requested":
      return `${name(event.player)} is asked to run the world of room ${code}.`;
    case "travel.offered":
      return `${name(event.player)} offers the world of room ${code} at ${event.addresses.map(addressText).join(", ")}.`;
    case "travel.boarding":
      return boarding(code, event.destination, event.detail, name);
    case "travel.troubled":
      return `${name(event.player)} cannot get to where room ${code} goes: ${event.why}`;
    case "travel.arrived":
      return `${name(event.player)} has arrived.`;
    case "travel.joined":
      return `${event.player.name} goes along with room ${code}.`;
    case "travel.completed": {
      const { without = [], late = [] } = event;
      if (late.length > 0) return `Room ${code} has arrived; ${late.map(name).join(", ")} came too late.`;
      if (without.length > 0) return `Room ${code} goes without ${without.map(name).join(", ")}, who may follow.`;
      return `Everybody of room ${code} has arrived.`;
    }
    case "travel.failed":
      return `The travel of room ${code} failed: ${event.detail}`;
    case "travel.followed":
      return `${name(event.player)} has followed room ${code}.`;
    case "travel.ashore":
      return `${name(event.player)} is gone from the level and still in room ${code}.`;
    case "travel.berth-added":
      return `${event.player.name} gets a berth in the world of room ${code}.`;
    case "travel.world-closed":
      return event.lost === undefined
        ? `The world of room ${code} is over.`
        : `The world of room ${code} is lost: ${event.lost}`;
    case "travel.pass-requested":
      return undefined;
    default:
      return assertNever(event);
  }
}

function boarding(code: string, destination: Destination, detail: string, name: (id: string) => string): string {
  switch (destination.by) {
    case "relayed":
      return `Room ${code} may begin: ${detail}.`;
    case "dedicated":
      return `Room ${code} may board ${destination.instance} at ${addressText(destination.address)}; the address answers.`;
    case "player-hosted":
      return `Room ${code} may go to the world of ${name(destination.player)}: ${detail}.`;
  }
}
