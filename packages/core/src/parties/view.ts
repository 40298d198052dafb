import type { OwnUpdate, PartyChange, PartyInvitationView, PartyView, PlayerId } from "@yellow-harbor/protocol";
import { ownerOf } from "../model/find-player.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import type { Party, PartyInvitation, PartyMember } from "../model/parties/state.ts";
import { type Delivery, toOne } from "../model/push.ts";
import { hearsEnds, hearsInvitation } from "../model/relations/known.ts";
import { reservationKey } from "../model/rooms/reservations.ts";
import type { RoomsPart } from "../model/state.ts";
import { invitationFor } from "./members.ts";

export function partyView({ id, code, lobby, leader, policy, members, invitations, sinceMs }: Party): PartyView {
  const invited = [...invitations.values()].map(({ name, by, untilMs }) => ({
    ...(name !== null && { name }),
    by,
    untilMs,
  }));
  return {
    id,
    code,
    lobby,
    leader,
    maxSize: policy.maxSize,
    members: [...members.values()].map(memberView),
    ...(invited.length > 0 && { invited }),
    sinceMs,
  };
}

const memberView = ({ id, name, presence, follows, room }: PartyMember): PartyView["members"][number] => ({
  id,
  name,
  presence,
  follows,
  ...(room && { room }),
});

const invitationView = (party: Party, { by, untilMs }: PartyInvitation): PartyInvitationView => ({
  party: party.id,
  by,
  members: party.members.size,
  untilMs,
});

/** The party that a player is in. */
export function partyOfPlayer({ parties }: RoomsPart, id: PlayerId): PartyView | undefined {
  const party = parties.byId.get(parties.byPlayer.get(id) ?? "");
  return party && partyView(party);
}

/** The invitations of a player as it hears of them: none while it has muted them. */
export function partyInvitations(state: RoomsPart, id: PlayerId): PartyInvitationView[] {
  const { players, parties } = state;
  const player = players.byId.get(id);
  if (player === undefined) return [];
  const account = player.identity?.account;
  const keys = [reservationKey({ player: id }), ...(account === undefined ? [] : [reservationKey({ account })])];
  const ids = new Set(keys.flatMap((key) => [...(parties.invitedTo.get(key) ?? [])]));
  return [...ids].flatMap((one) => {
    const party = parties.byId.get(one);
    const own = party && invitationFor(party, player);
    return party && own && hearsInvitation(state, player, own.by.id) ? [invitationView(party, own)] : [];
  });
}

/** What is told about an event, from the state after it. */
export function partyPushes(state: RoomsPart, event: PartyEvent): Delivery[] {
  const party = state.parties.byId.get(event.party);
  const own = ownPush(state, party, event);
  if (party === undefined || !isTold(event)) return own;
  const view = partyView(party);
  // Who has just come has the view in its reply.
  const apart = event.kind === "party.joined" ? event.member.id : undefined;
  const to = [...party.members.keys()].filter((one) => one !== apart);
  const update: OwnUpdate & { kind: "party-changed" } = {
    kind: "party-changed",
    ...changeOf(event),
    party: view,
  };
  return [...to.map((one) => toOne(one, update)), ...own];
}

/** What a member brings to searches is nobody else's business. */
const isTold = (event: PartyEvent): event is ToldEvent =>
  event.kind !== "party.opened" &&
  event.kind !== "party.called" &&
  (event.kind !== "party.member-changed" ||
    event.follows !== undefined ||
    event.presence !== undefined ||
    event.room !== undefined);

type ToldEvent = Exclude<PartyEvent, { kind: "party.opened" | "party.called" }>;

function changeOf(event: ToldEvent): { change: PartyChange; player?: PlayerId } & Pick<OwnChange, "left"> {
  switch (event.kind) {
    case "party.joined":
      return { change: "joined", player: event.member.id };
    case "party.left":
      return { change: "left", player: event.player, left: event.cause };
    case "party.led":
      return { change: "leader", player: event.leader };
    case "party.invited":
      return { change: "invited" };
    case "party.invitation-ended":
      return { change: "invitation-ended" };
    case "party.member-changed":
      return { change: "member", player: event.player };
  }
}

type OwnChange = Extract<OwnUpdate, { kind: "party-changed" }>;

/** What the one hears whom the event is about, and who is in no party by it. */
function ownPush(state: RoomsPart, party: Party | undefined, event: PartyEvent): Delivery[] {
  if (event.kind === "party.left") {
    const { player, cause, why } = event;
    const update = { kind: "out-of-party", party: event.party, cause, ...(why !== undefined && { why }) } as const;
    return cause === "gone" ? [] : [toOne(player, update)];
  }
  const who = event.kind === "party.joined" ? event.invited : "for" in event ? event.for : undefined;
  const owner = who && ownerOf(state, who);
  if (owner === undefined) return [];
  if (event.kind === "party.invited") {
    return party && hearsInvitation(state, owner, event.by.id)
      ? [toOne(owner.id, { kind: "party-invited", invitation: invitationView(party, event) })]
      : [];
  }
  if (!hearsEnds(owner)) return [];
  const cause = event.kind === "party.invitation-ended" ? event.cause : "joined";
  return [toOne(owner.id, { kind: "party-invitation-ended", party: event.party, cause })];
}
