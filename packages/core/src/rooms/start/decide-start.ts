import type { Revised } from "@yellow-harbor/protocol";
import { type LevelView, type PlayerArgs, type PlayerId, phaseWords, type RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, roomOf, wrongPhase } from "../../model/find-room.ts";
import type { RoomEvent, TravelRequest } from "../../model/rooms/events.ts";
import type { Member, Room } from "../../model/rooms/state.ts";
import { newId } from "../../model/stamp.ts";
import { destinationsOf, drawSpread } from "../settings/levels.ts";
import { missingToStart } from "./explain.ts";

export function setReady(
  { state }: RoomsContext,
  player: PlayerId,
  { ready }: PlayerArgs<"room.ready">,
): Decision<Revised> {
  // Also while counting: a member who takes its word back stops the count.
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  return setReadyOf(found.room, found.member, ready);
}

/** The word of a member, given by itself or by an operator. */
export function setReadyOf(room: Room, member: Member, ready: boolean): Decision<Revised> {
  if (room.stage.phase !== "gathering" && room.stage.phase !== "counting") return wrongPhase(room);
  if (member.ready === ready) return accept([], { reply: revisionReply(room.id) });
  return accept([{ kind: "room.ready-set", room: room.id, player: member.id, ready }], {
    reply: revisionReply(room.id),
  });
}

/** Refused with everything that is missing, else the count begins, or the travel when there is none. */
export function start(context: RoomsContext, player: PlayerId): Decision<Revised> {
  const present = roomOf(context.state, player);
  const anyone = !("refused" in present) && present.room.policy.starters === "anyone";
  const found = anyone ? present : roomOf(context.state, player, { hostOnly: "start" });
  if ("refused" in found) return found;
  return startRoom(context, found.room);
}

/** The same of a room, whoever starts it. */
export function startRoom(context: RoomsContext, room: Room): Decision<Revised> {
  if (room.stage.phase !== "gathering") return wrongPhase(room);
  const missing = missingToStart(room);
  if (missing.length > 0) {
    const reasons = missing.map((row) => row.text).join("; ");
    return refuse("start-not-possible", `Cannot start: ${reasons}.`, { missing });
  }
  return begin(context, room);
}

export function stopCount({ state }: RoomsContext, player: PlayerId): Decision<Revised> {
  const found = roomOf(state, player, { hostOnly: "stop the countdown" });
  if ("refused" in found) return found;
  const { room } = found;
  if (room.stage.phase !== "counting")
    return refuse("wrong-phase", `Room ${room.code} ${phaseWords[room.stage.phase]}; there is no countdown to stop.`);
  return accept([{ kind: "room.count-stopped", room: room.id, why: "the host stopped it" }], {
    reply: revisionReply(room.id),
  });
}

/** A count goes on only while nothing is missing; a room that starts by itself does so once nothing is. */
export function consider(context: RoomsContext, id: RoomId): Decision {
  const room = context.state.rooms.byId.get(id);
  if (room === undefined) return nothingToDo;
  const [first] = missingToStart(room);
  if (room.stage.phase === "counting" && first)
    return accept([{ kind: "room.count-stopped", room: id, why: first.text }]);
  if (room.stage.phase === "gathering" && room.policy.autoStart && first === undefined) return begin(context, room);
  return nothingToDo;
}

export function launch(context: RoomsContext, id: RoomId): Decision {
  const room = context.state.rooms.byId.get(id);
  if (room?.stage.phase !== "counting") return nothingToDo;
  const started = startedEvent(context, room);
  if ("kind" in started) return accept([started]);
  return accept([{ kind: "room.count-stopped", room: id, why: "its level was taken out of the configuration" }]);
}

function begin(context: RoomsContext, room: Room): Decision<Revised> {
  const reply = revisionReply(room.id);
  if (room.policy.countdownMs > 0) {
    return accept([{ kind: "room.counting", room: room.id, startsAtMs: context.at + room.policy.countdownMs }], {
      reply,
    });
  }
  const started = startedEvent(context, room);
  return "kind" in started ? accept([started], { reply }) : started;
}

/** The start itself, with those who go, or why not. `moves` when a lost run begins anew. */
export function startedEvent(
  { rules, random }: RoomsContext,
  room: Room,
  { level = room.level, moves }: { readonly level?: LevelView | null; readonly moves?: number } = {},
): Extract<RoomEvent, { kind: "room.started" }> | Refusal {
  const known = level === null ? undefined : rules.levels.get(level.id);
  if (level === null || known === undefined) {
    return refuse("level-unknown", `Level ${level?.id} was taken out of the configuration; pick another.`);
  }
  const options = destinationsOf(rules, room.policy, level.id);
  if (options.length === 0) {
    const allowed = room.policy.destinations.join(", ");
    const detail = `Level ${level.id} cannot be played at any destination of rooms of kind ${room.kind}: ${allowed}.`;
    return refuse("level-not-allowed", detail);
  }
  const members = travellersOf(room).map(({ id, name, place }) => ({ id, name, place }));
  const { stragglers } = room.policy;
  const run = newId("u", random);
  const spread = drawSpread(rules, room, level.id, random);
  const request: TravelRequest = { pool: known.pool, level, members, options, stragglers, spread };
  return { kind: "room.started", room: room.id, run, request, ...(moves !== undefined && { moves }) };
}

/** Who goes along: where not everybody's word is needed, whoever is away stays behind. */
export function travellersOf({ policy, members }: Room): Member[] {
  const all = [...members.values()];
  return policy.readiness === "all" ? all : all.filter((member) => member.presence === "here");
}
