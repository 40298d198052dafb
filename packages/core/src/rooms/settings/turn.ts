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

export function passTurn(
  { state, at }: RoomsContext,
  player: PlayerId,
  { to, limitMs }: PlayerArgs<"room.pass-turn">,
): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room } = found;
  const { turn } = room;
  const isHost = room.host === player;
  if (turn === null && !isHost) return refuse("not-host", "There are no turns yet; only the host may start them.");
  if (turn !== null && turn.holder !== player && !isHost) {
    const holder = memberName(room, turn.holder) ?? turn.holder;
    return refuse("turn-not-yours", `It is ${holder}'s turn; only its holder and the host may pass the turn.`);
  }
  if (limitMs !== undefined && !isHost) return refuse("not-host", "Only the host may set how long a turn lasts.");
  const next = to ?? (turn === null ? player : nextInCircle(room, turn.holder)) ?? player;
  const member = room.members.get(next);
  if (member === undefined) return unknownMember(room, next);
  if (to !== undefined && !isHere(member)) {
    return refuse("member-unknown", `${member.name} is away; pass the turn to somebody who is here.`);
  }
  const limit = limitMs ?? turn?.limitMs ?? null;
  return pass(room, { holder: next, cause: "given", by: player, limitMs: limit, at });
}

export function endTurns({ state }: RoomsContext, player: PlayerId): Decision<Revised> {
  const found = roomOf(state, player, { hostOnly: "end the turns" });
  if ("refused" in found) return found;
  const { room } = found;
  const events = room.turn === null ? [] : [{ kind: "room.turns-ended", room: room.id, by: player } as const];
  return accept(events, { reply: revisionReply(room.id) });
}

/** Whoever is away loses its turn as soon as somebody is here to take it; so does who takes too long. */
export function checkTurn({ state, at }: RoomsContext, id: RoomId): Decision {
  const room = state.rooms.byId.get(id);
  const turn = room?.turn;
  if (room === undefined || turn == null) return nothingToDo;
  const next = nextInCircle(room, turn.holder);
  const isLate = turn.endsAtMs !== null && turn.endsAtMs <= at;
  const { limitMs } = turn;
  const holder = room.members.get(turn.holder);
  const nextIsHere = next !== undefined && isHere(room.members.get(next));
  if (!isHere(holder) && nextIsHere) return pass(room, { holder: next, cause: "gone", limitMs, at });
  // With nobody else here the same member goes on, with a new turn.
  if (isLate) return pass(room, { holder: nextIsHere ? next : turn.holder, cause: "late", limitMs, at });
  return nothingToDo;
}

/** What becomes of the turn when `leaver` departs: part of the same event. */
export function turnAfter(
  room: Room,
  leaver: PlayerId,
  at: number,
): { turn?: { holder: PlayerId; endsAtMs: number | null } | null } {
  if (room.turn?.holder !== leaver) return {};
  const holder = nextInCircle(room, leaver);
  if (holder === undefined) return { turn: null };
  const { limitMs } = room.turn;
  return { turn: { holder, endsAtMs: limitMs === null ? null : at + limitMs } };
}

interface Passing {
  readonly holder: PlayerId;
  readonly cause: "given" | "gone" | "late";
  readonly by?: PlayerId;
  readonly limitMs: number | null;
  readonly at: number;
}

function pass(room: Room, { holder, cause, by, limitMs, at }: Passing): Decision<Revised> {
  const endsAtMs = limitMs === null ? null : at + limitMs;
  return accept(
    [{ kind: "room.turn-passed", room: room.id, holder, cause, ...(by !== undefined && { by }), limitMs, endsAtMs }],
    { reply: revisionReply(room.id) },
  );
}

const isHere = (member: Member | undefined): boolean => member?.presence === "here";
