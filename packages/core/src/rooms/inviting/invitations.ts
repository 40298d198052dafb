import type { InvitationView, PlayerId } from "@yellow-harbor/protocol";
import { hearsInvitation } from "../../model/relations/known.ts";
import { type Reservation, reservationKey, reservationOf } from "../../model/rooms/reservations.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";

export function invitationView({ id, code, name, kind }: Room, { by, side, untilMs }: Reservation): InvitationView {
  return { room: id, code, name, kind, untilMs, ...(by && { by }), ...(side !== null && { side }) };
}

/** The rooms that keep a place for a player, whether it wants to hear of them or not. */
function roomsInviting({ rooms, players }: RoomsPart, id: PlayerId): Room[] {
  const account = players.byId.get(id)?.identity?.account;
  const keys = [reservationKey({ player: id }), ...(account === undefined ? [] : [reservationKey({ account })])];
  const ids = new Set(keys.flatMap((key) => [...(rooms.keptFor.get(key) ?? [])]));
  return [...ids].flatMap((room) => rooms.byId.get(room) ?? []);
}

/** The invitations of a player as it hears of them. */
export function invitationsOf(state: RoomsPart, id: PlayerId): InvitationView[] {
  const player = state.players.byId.get(id);
  if (player === undefined) return [];
  return roomsInviting(state, id).flatMap((room) => {
    const own = reservationOf(room, player);
    return own && hearsInvitation(state, player, own.by?.id) ? [invitationView(room, own)] : [];
  });
}
