import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import type { RoomEvent } from "./events.ts";
import { missingToStart } from "./explain.ts";

/** The event in a sentence, from the state after it. */
export function tellRoom(state: HarborState, event: RoomEvent): string | undefined {
  const room = state.rooms.byId.get(event.room);
  const code = room?.code ?? ("code" in event ? event.code : event.room);
  const name = (id: string) => room?.members.get(id)?.name ?? id;
  const count = `${room?.members.size} of ${room?.capacity}`;
  switch (event.kind) {
    case "room.opened":
      return `${event.hostName} opens room ${code} for ${event.capacity} and is its host.`;
    case "room.joined":
      return `${event.name} joins room ${code} at place ${event.place} (${count}).`;
    case "room.departed":
      return `${departed(event, code)} (${count})${event.why ? `: ${event.why}` : ""}${event.host ? `; ${name(event.host)} is host now` : ""}.`;
    case "room.member-away":
      return `${name(event.player)} is away from room ${code}; place ${room?.members.get(event.player)?.place} is kept.`;
    case "room.member-back":
      return `${name(event.player)} is back in room ${code}.`;
    case "room.settings-changed":
      return `${name(event.by)} changes room ${code}: ${changes(event)}.`;
    case "room.board-written":
      return `${name(event.by)} writes ${event.key} on the board of room ${code}.`;
    case "room.board-erased":
      return `${name(event.by)} erases ${event.key} from the board of room ${code}.`;
    case "room.host-changed":
      return `${name(event.host)} is host of room ${code} now${event.by ? `, by ${name(event.by)}` : ", by an operator"}.`;
    case "room.level-picked":
      return `${name(event.by)} picks level ${event.level.id} for room ${code}.`;
    case "room.ready-set": {
      const missing = room === undefined ? [] : missingToStart(room).map((row) => row.text);
      const rest = missing.length === 0 ? "everything is there" : missing.join("; ");
      return `${name(event.player)} is ${event.ready ? "ready" : "not ready"} in room ${code}: ${rest}.`;
    }
    case "room.counting":
      return `Room ${code} counts down.`;
    case "room.count-stopped":
      return `Room ${code} stops counting: ${event.why}.`;
    case "room.started":
      return `Room ${code} starts for ${event.order.level.id} with ${event.order.members.length} players.`;
    case "room.playing":
      return `Room ${code} plays on ${event.instance} at ${event.address.host}:${event.address.port}.`;
    case "room.result-set": {
      const ranks = event.standings.map((row) => `${row.rank}. ${name(row.player)} (${row.score})`).join(", ");
      return `Room ${code} has its result: ${ranks || "no standings"}${event.note ? `; ${event.note}` : ""}. It gathers again.`;
    }
    case "room.returned":
      return `Room ${code} is back to gathering: ${event.detail}`;
    case "room.closed":
      return `Room ${code} is empty and closes.`;
    default:
      return assertNever(event);
  }
}

type Of<K extends RoomEvent["kind"]> = Extract<RoomEvent, { kind: K }>;

function departed({ name, reason, by }: Of<"room.departed">, code: string): string {
  return {
    left: `${name} leaves room ${code}`,
    lost: `${name} is gone from room ${code}`,
    "put-out": `${name} is put out of room ${code} by the ${by}`,
    closed: `${name} has to leave room ${code}`,
  }[reason];
}

function changes({ name, capacity, visibility }: Of<"room.settings-changed">): string {
  return [name && `name ${name}`, capacity && `capacity ${capacity}`, visibility && `visibility ${visibility}`]
    .filter(Boolean)
    .join(", ");
}
