import type { PlayerId, Revised } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../../deadlines/index.ts";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../../model/decision.ts";
import { revisionReply, roomOf } from "../../model/find-room.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Member, Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { departedEvent } from "./decide-leaving.ts";

/** When a member is asked whether it is still here, or goes back to the lobby since it has not answered. */
function dueOf(room: Room, { idle, ready, presence }: Member): number | undefined {
  const rules = room.policy.idle;
  // Who is ready waits for others, and who is away has its own time.
  if (rules == null || idle === undefined || ready || presence === "away") return undefined;
  return idle.askedUntilMs ?? idle.sinceMs + rules.askAfterMs;
}

/** The member whose time comes first. */
function firstDue(room: Room): { readonly member: Member; readonly at: number } | undefined {
  if (room.stage.phase !== "gathering") return undefined;
  let first: { member: Member; at: number } | undefined;
  for (const member of room.members.values()) {
    const at = dueOf(room, member);
    if (at !== undefined && (first === undefined || at < first.at)) first = { member, at };
  }
  return first;
}

/** The member who has waited for the longest is asked, or goes back to the lobby. */
export function checkIdle(context: RoomsContext, id: string): Decision {
  const room = context.state.rooms.byId.get(id);
  const first = room && firstDue(room);
  const rules = room?.policy.idle;
  if (room === undefined || first === undefined || rules == null || context.at < first.at) return nothingToDo;
  const { member } = first;
  if (member.idle?.askedUntilMs != null) {
    return accept([departedEvent(context, room, member.id, { reason: "idle" })]);
  }
  return accept([{ kind: "room.idle-asked", room: id, player: member.id, untilMs: context.at + rules.answerMs }]);
}

/** A member says that it is here, whatever else it does. */
export function sayHere({ state }: RoomsContext, player: PlayerId): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room } = found;
  const isTimed = room.policy.idle != null;
  return accept(isTimed ? [{ kind: "room.member-active", room: room.id, player }] : [], {
    reply: revisionReply(room.id),
  });
}

/** Who has done something by this event; "all" where the room gathers anew. */
function actorOf(event: RoomEvent): PlayerId | "all" | undefined {
  switch (event.kind) {
    case "room.gathered":
    case "room.returned":
    case "room.result-set":
    case "room.count-stopped":
      return "all";
    case "room.joined":
    case "room.member-back":
    case "room.member-active":
    case "room.ready-set":
    case "room.moved":
    case "room.swap-offered":
    case "room.voted":
    case "room.background-set":
    case "room.member-described":
      return event.player;
    case "room.settings-changed":
    case "room.level-picked":
    case "room.board-set":
    case "room.board-removed":
    case "room.turn-passed":
      return event.by;
    default:
      return undefined;
  }
}

/** Notes who has done something, and when the next member is looked after. */
export function noteActivity({ deadlines }: RoomsPart, room: Room, event: RoomEvent, at: number): void {
  if (room.policy.idle == null) return;
  const actor = event.kind === "room.opened" ? "all" : actorOf(event);
  for (const member of actor === "all" ? room.members.values() : []) member.idle = { sinceMs: at, askedUntilMs: null };
  const one = room.members.get(actor ?? "");
  if (one) one.idle = { sinceMs: at, askedUntilMs: null };
  if (event.kind === "room.idle-asked") {
    const asked = room.members.get(event.player);
    if (asked) asked.idle = { sinceMs: asked.idle?.sinceMs ?? at, askedUntilMs: event.untilMs };
  }
  const first = firstDue(room);
  if (first === undefined) clearDeadline(deadlines, "room-idle", room.id);
  else setDeadline(deadlines, "room-idle", room.id, first.at);
}

/** Whether a room waits for a member to do something. */
export const waitsForIdle = (room: Room): boolean => firstDue(room) !== undefined;
