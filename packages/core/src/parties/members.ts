import type { PlayerId } from "@yellow-harbor/protocol";
import { type Refusal, refuse } from "../model/decision.ts";
import type { Brought, Party, PartyInvitation, PartyMember } from "../model/parties/state.ts";
import type { Player } from "../model/players/state.ts";
import type { Done } from "../model/replies.ts";
import { reservationKey } from "../model/rooms/reservations.ts";
import type { RoomsPart } from "../model/state.ts";

/** Where a player is, as its party is told. */
export function whereabouts({ players, rooms }: RoomsPart, id: PlayerId): Pick<PartyMember, "presence" | "room"> {
  const player = players.byId.get(id);
  const room = rooms.byId.get(player?.room ?? "");
  return { presence: player?.presence ?? "away", room: room ? { id: room.id, code: room.code } : null };
}

export const memberFrom = (state: RoomsPart, { id, name }: Player, brings: Brought): PartyMember => ({
  id,
  name,
  follows: true,
  brings,
  ...whereabouts(state, id),
});

/** Who leads when the leader goes: of those who came first one who is here, else the first. */
export function nextLeader({ members }: Party, leaver: PlayerId): PlayerId | undefined {
  const others = [...members.values()].filter(({ id }) => id !== leaver);
  return (others.find(({ presence }) => presence === "here") ?? others[0])?.id;
}

export const done = (): Done => ({});

/** The party that a player is in, with its own place in it; `power` is what only the leader may do. */
export function ownParty(
  { parties }: RoomsPart,
  id: PlayerId,
  power?: string,
): { readonly party: Party; readonly member: PartyMember } | Refusal {
  const party = parties.byId.get(parties.byPlayer.get(id) ?? "");
  const member = party?.members.get(id);
  if (party === undefined || member === undefined) {
    return refuse("not-in-party", "You are in no party; found one with party.open, or join one.");
  }
  if (power !== undefined && party.leader !== id) {
    const leader = party.members.get(party.leader)?.name ?? party.leader;
    return refuse("not-party-leader", `Only the leader may ${power}; ${leader} leads your party.`);
  }
  return { party, member };
}

/** The invitation of a player, by its id or its account. */
export function invitationFor({ invitations }: Party, { id, identity }: Player): PartyInvitation | undefined {
  const byAccount = identity === null ? undefined : invitations.get(reservationKey({ account: identity.account }));
  return byAccount ?? invitations.get(reservationKey({ player: id }));
}
