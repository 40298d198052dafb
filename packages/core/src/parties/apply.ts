import type { PlayerId, ReservedFor } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import type { Party, PartyMember } from "../model/parties/state.ts";
import { reservationKey } from "../model/rooms/reservations.ts";
import type { RoomsPart } from "../model/state.ts";

export function applyParty(state: RoomsPart, event: PartyEvent, at: number): void {
  const { parties } = state;
  if (event.kind === "party.opened") {
    const { party: id, code, lobby, policy, leader } = event;
    const party: Party = {
      id,
      code,
      lobby,
      policy,
      sinceMs: at,
      leader: leader.id,
      leaderAwaySinceMs: leader.presence === "here" ? null : at,
      members: new Map([[leader.id, leader]]),
      invitations: new Map(),
    };
    parties.byId.set(id, party);
    parties.byCode.set(code, id);
    parties.byPlayer.set(leader.id, id);
    return;
  }
  const party = parties.byId.get(event.party);
  if (party === undefined) throw new Error(`event about unknown party ${event.party}`);
  switch (event.kind) {
    case "party.joined":
      party.members.set(event.member.id, event.member);
      parties.byPlayer.set(event.member.id, party.id);
      if (event.invited) endInvitation(state, party, event.invited);
      return;
    case "party.left":
      party.members.delete(event.player);
      parties.byPlayer.delete(event.player);
      if (event.leader !== undefined) lead(state, party, event.leader, at);
      if (party.members.size === 0) forget(state, party);
      return;
    case "party.led":
      return lead(state, party, event.leader, at);
    case "party.invited": {
      const { kind: _, party: __, ...invitation } = event;
      const key = reservationKey(event.for);
      party.invitations.set(key, invitation);
      parties.invitedTo.set(key, (parties.invitedTo.get(key) ?? new Set()).add(party.id));
      return armInvitations(state, party);
    }
    case "party.invitation-ended":
      return endInvitation(state, party, event.for);
    case "party.member-changed": {
      const { kind: _, party: __, player, ...changed } = event;
      const member = memberOf(party, player);
      party.members.set(player, { ...member, ...changed });
      if (player === party.leader && changed.presence !== undefined) lead(state, party, player, at);
      return;
    }
    case "party.called":
      return;
    default:
      assertNever(event);
  }
}

/** The one who leads now; from when it is away its time runs. */
function lead({ deadlines }: RoomsPart, party: Party, leader: PlayerId, at: number): void {
  party.leader = leader;
  party.leaderAwaySinceMs = memberOf(party, leader).presence === "here" ? null : at;
  if (party.leaderAwaySinceMs === null) clearDeadline(deadlines, "party-leader", party.id);
  else setDeadline(deadlines, "party-leader", party.id, at + party.policy.leaderGraceMs);
}

function endInvitation(state: RoomsPart, party: Party, who: ReservedFor): void {
  const key = reservationKey(who);
  const { invitedTo } = state.parties;
  party.invitations.delete(key);
  invitedTo.get(key)?.delete(party.id);
  if (invitedTo.get(key)?.size === 0) invitedTo.delete(key);
  armInvitations(state, party);
}

function armInvitations({ deadlines }: RoomsPart, { id, invitations }: Party): void {
  if (invitations.size === 0) return clearDeadline(deadlines, "party-invitation", id);
  setDeadline(deadlines, "party-invitation", id, Math.min(...[...invitations.values()].map(({ untilMs }) => untilMs)));
}

function forget({ parties, deadlines }: RoomsPart, { id, code }: Party): void {
  parties.byId.delete(id);
  parties.byCode.delete(code);
  clearDeadline(deadlines, "party-leader", id);
}

function memberOf({ id, members }: Party, player: PlayerId): PartyMember {
  const member = members.get(player);
  if (member === undefined) throw new Error(`event of party ${id} about ${player}, who is not in it`);
  return member;
}

/** Nobody is connected any more. */
export function markPartiesAway(state: RoomsPart, at: number): void {
  for (const party of state.parties.byId.values()) {
    for (const member of party.members.values()) party.members.set(member.id, { ...member, presence: "away" });
    if (party.leaderAwaySinceMs === null) lead(state, party, party.leader, at);
  }
}
