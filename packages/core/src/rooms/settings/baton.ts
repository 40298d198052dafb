import type { PlayerArgs, PlayerId, Revised, RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext, refuse } from "../../model/decision.ts";
import { memberName, revisionReply, roomOf, unknownMember } from "../../model/find-room.ts";
import type { Member, Room } from "../../model/rooms/state.ts";

/** The circle goes by place. After `from` comes the next one who is here; when nobody else is here, the next one at all. */
export function nextInCircle(room: Room, from: PlayerId): PlayerId | undefined {
  const place = room.members.get(from)?.place ?? -1;
  const others = [...room.members.values()].filter(({ id }) => id !== from).sort((a, b) => a.place - b.place);
  const circle = [...others.filter((one) => one.place > place), ...others.filter((one) => one.place < place)];
  return (circle.find(isHere) ?? circle[0])?.id;
}

export function giveBaton(
  { state, at }: RoomsContext,
  player: PlayerId,
  { to, limitMs }: PlayerArgs<"room.give-baton">,
): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room } = found;
  const { baton } = room;
  const isHost = room.host === player;
  if (baton === null && !isHost) return refuse("not-host", "There is no baton yet; only the host may bring it in.");
  if (baton !== null && baton.holder !== player && !isHost) {
    const holder = memberName(room, baton.holder) ?? baton.holder;
    return refuse("baton-not-held", `It is ${holder}'s turn; only its holder and the host may pass the baton.`);
  }
  if (limitMs !== undefined && !isHost) return refuse("not-host", "Only the host may set how long a turn lasts.");
  const next = to ?? (baton === null ? player : nextInCircle(room, baton.holder)) ?? player;
  const member = room.members.get(next);
  if (member === undefined) return unknownMember(room, next);
  if (to !== undefined && !isHere(member)) {
    return refuse("member-unknown", `${member.name} is away; pass the baton to somebody who is here.`);
  }
  const limit = limitMs ?? baton?.limitMs ?? null;
  return pass(room, { holder: next, cause: "given", by: player, limitMs: limit, at });
}

export function takeBaton({ state }: RoomsContext, player: PlayerId): Decision<Revised> {
  const found = roomOf(state, player, { hostOnly: "take the baton out" });
  if ("refused" in found) return found;
  const { room } = found;
  const events = room.baton === null ? [] : [{ kind: "room.baton-taken", room: room.id, by: player } as const];
  return accept(events, { reply: revisionReply(room.id) });
}

/** Whoever is away loses its turn as soon as somebody is here to take it; so does who takes too long. */
export function checkBaton({ state, at }: RoomsContext, id: RoomId): Decision {
  const room = state.rooms.byId.get(id);
  const baton = room?.baton;
  if (room === undefined || baton == null) return nothingToDo;
  const next = nextInCircle(room, baton.holder);
  const isLate = baton.untilMs !== null && baton.untilMs <= at;
  const { limitMs } = baton;
  const holder = room.members.get(baton.holder);
  const nextIsHere = next !== undefined && isHere(room.members.get(next));
  if (!isHere(holder) && nextIsHere) return pass(room, { holder: next, cause: "gone", limitMs, at });
  // With nobody else here the same member goes on, with a new turn.
  if (isLate) return pass(room, { holder: nextIsHere ? next : baton.holder, cause: "late", limitMs, at });
  return nothingToDo;
}

/** What becomes of the baton when `leaver` departs: part of the same event. */
export function batonAfter(
  room: Room,
  leaver: PlayerId,
  at: number,
): { baton?: { holder: PlayerId; untilMs: number | null } | null } {
  if (room.baton?.holder !== leaver) return {};
  const holder = nextInCircle(room, leaver);
  if (holder === undefined) return { baton: null };
  const { limitMs } = room.baton;
  return { baton: { holder, untilMs: limitMs === null ? null : at + limitMs } };
}

interface Passing {
  readonly holder: PlayerId;
  readonly cause: "given" | "gone" | "late";
  readonly by?: PlayerId;
  readonly limitMs: number | null;
  readonly at: number;
}

function pass(room: Room, { holder, cause, by, limitMs, at }: Passing): Decision<Revised> {
  const untilMs = limitMs === null ? null : at + limitMs;
  return accept(
    [{ kind: "room.baton-passed", room: room.id, holder, cause, ...(by !== undefined && { by }), limitMs, untilMs }],
    { reply: revisionReply(room.id) },
  );
}

const isHere = (member: Member | undefined): boolean => member?.presence === "here";
