import type { PlayerArgs, PlayerId, PlayerReply, ReservedFor, Revised, SideName } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { ownerOf } from "../../model/find-player.ts";
import { hostName, memberName, revisionReply, roomOf, unknownRoom } from "../../model/find-room.ts";
import type { Player } from "../../model/players/state.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { type Reservation, reservationKey, reservationOf } from "../../model/rooms/reservations.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { parties } from "../../parties/index.ts";
import { obstacles, placeObstacles } from "../start/obstacles.ts";
import { invitationsOf } from "./invitations.ts";

/** So many places are kept for those whom one member has invited. */
const BY_ONE_MAX = 8;
/** So many rooms keep a place for one player. */
const FOR_ONE_MAX = 16;

export function invite(
  context: RoomsContext,
  id: PlayerId,
  args: PlayerArgs<"room.invite">,
): Decision<PlayerReply<"room.invite">> {
  const { state, at } = context;
  const found = roomOf(state, id);
  if ("refused" in found) return found;
  const { room, member } = found;
  const who = reservedFor(args);
  const { side } = args;
  const invited = ownerOf(state, who);
  const own = invited ? reservationOf(room, invited) : room.reservations.get(reservationKey(who));
  const against = whyNotInvite(room, id) ?? whyNotInvited(room, { who, invited, own, side });
  if (against) return against;
  const full = own === undefined ? tooMany(state, room, id, who) : undefined;
  if (full !== undefined) return refuse("too-many-invitations", full);
  // What an operator keeps is not made shorter by somebody's invitation.
  const untilMs = Math.max(own?.untilMs ?? 0, at + room.policy.inviteMs);
  const invitation: RoomEvent = {
    kind: "room.place-reserved",
    room: room.id,
    for: own?.for ?? who,
    name: "player" in who ? (invited?.name ?? null) : (own?.name ?? null),
    side: side ?? own?.side ?? null,
    untilMs,
    by: { id, name: member.name },
  };
  return accept([invitation], { reply: () => ({ untilMs }) });
}

const reservedFor = (args: PlayerArgs<"room.invite"> | PlayerArgs<"room.uninvite">): ReservedFor =>
  "account" in args ? { account: args.account } : { player: args.player };

function whyNotInvite(room: Room, by: PlayerId): Refusal | undefined {
  const { invites } = room.policy;
  if (invites === "members" || (invites === "host" && room.host === by)) return undefined;
  const whose = invites === "nobody" ? "nobody invites others" : `the host, ${hostName(room)}, invites others`;
  return refuse("invites-not-yours", `In rooms of kind ${room.kind} ${whose}.`);
}

interface Invited {
  readonly who: ReservedFor;
  readonly invited: Player | undefined;
  readonly own: Reservation | undefined;
  readonly side: SideName | undefined;
}

/** Of an account nothing is told that whoever invites it does not know: not whether it is here, nor what it plays. */
function whyNotInvited(room: Room, { who, invited, own, side }: Invited): Refusal | undefined {
  if ("player" in who && invited === undefined) {
    return refuse("player-unknown", `There is no player ${who.player}; it has left.`);
  }
  if (invited !== undefined && room.members.has(invited.id)) {
    // Which of the members it is, whoever knows the account alone is not told.
    const whom = "player" in who ? invited.name : "Whoever that is";
    return refuse("already-in-room", `${whom} is in room ${room.code} already.`);
  }
  const [first] =
    "player" in who && invited
      ? obstacles(room, invited, { byCode: true, side, isPut: true })
      : placeObstacles(room, side, own);
  return first && refuse(first.code, `${first.text}. What would change it: ${first.change}.`);
}

function tooMany(state: RoomsPart, room: Room, by: PlayerId, who: ReservedFor): string | undefined {
  const own = [...room.reservations.values()].filter((one) => one.by?.id === by).length;
  if (own >= BY_ONE_MAX) return `You have invited ${own} players who have not come yet, which is the most.`;
  const rooms = state.rooms.keptFor.get(reservationKey(who))?.size ?? 0;
  return rooms < FOR_ONE_MAX ? undefined : `${FOR_ONE_MAX} rooms keep a place there already, which is the most.`;
}

export function uninvite({ state }: RoomsContext, id: PlayerId, args: PlayerArgs<"room.uninvite">): Decision<Revised> {
  const found = roomOf(state, id);
  if ("refused" in found) return found;
  const { room } = found;
  const who = reservedFor(args);
  const owner = ownerOf(state, who);
  const own = owner ? reservationOf(room, owner) : room.reservations.get(reservationKey(who));
  if (own === undefined) {
    const whom = "account" in who ? who.account : who.player;
    return refuse("reservation-unknown", `No place of room ${room.code} is kept for ${whom}.`);
  }
  if (room.host !== id && own.by?.id !== id) {
    const inviter = own.by === undefined ? "an operator" : (memberName(room, own.by.id) ?? own.by.name);
    return refuse(
      "not-host",
      `${inviter} keeps this place; only that one or the host, ${hostName(room)}, takes it back.`,
    );
  }
  return accept([{ kind: "room.reservation-ended", room: room.id, for: own.for, cause: "cancelled", by: id }], {
    reply: revisionReply(room.id),
  });
}

export function decline(
  { state }: RoomsContext,
  id: PlayerId,
  { room: wanted }: PlayerArgs<"room.decline">,
): Decision<PlayerReply<"room.decline">> {
  const room = state.rooms.byId.get(wanted);
  if (room === undefined) return unknownRoom(wanted);
  const player = state.players.byId.get(id);
  const own = player && reservationOf(room, player);
  if (own === undefined) return refuse("reservation-unknown", "This room keeps no place for you.");
  return accept([{ kind: "room.reservation-ended", room: room.id, for: own.for, cause: "declined" }], {
    reply: () => ({}),
  });
}

export function muteInvites(
  { state }: RoomsContext,
  id: PlayerId,
  { muted, exceptFriends }: PlayerArgs<"room.mute-invites">,
): Decision<PlayerReply<"room.mute-invites">> {
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const ofFriends = muted && exceptFriends === true;
  const isSo = (player.invitesMuted ?? false) === muted && (player.invitesOfFriends ?? false) === ofFriends;
  const event = {
    kind: "player.invites-muted",
    player: id,
    muted,
    ...(ofFriends && { exceptFriends: ofFriends }),
  } as const;
  return accept(isSo ? [] : [event], {
    reply: (after) => ({
      invitations: invitationsOf(after, id),
      partyInvitations: parties.views.invitations(after, id),
    }),
  });
}
