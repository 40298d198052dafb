import type { PlayerArgs, PlayerId, PlayerReply, ReservedFor } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { ownerOf } from "../model/find-player.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import type { Party, PartyInvitation } from "../model/parties/state.ts";
import type { Player } from "../model/players/state.ts";
import { knows } from "../model/relations/known.ts";
import type { Done } from "../model/replies.ts";
import { reservationKey } from "../model/rooms/reservations.ts";
import type { RoomsPart } from "../model/state.ts";
import { done, invitationFor, ownParty } from "./members.ts";

/** So many may one member have invited who have not come yet. */
const BY_ONE_MAX = 8;
/** So many parties may invite one player. */
const FOR_ONE_MAX = 16;

export function invite(
  { state, at }: RoomsContext,
  id: PlayerId,
  args: PlayerArgs<"party.invite">,
): Decision<PlayerReply<"party.invite">> {
  const found = ownParty(state, id);
  if ("refused" in found) return found;
  const { party, member } = found;
  const who: ReservedFor = "account" in args ? { account: args.account } : { player: args.player };
  const invited = ownerOf(state, who);
  const known = invited ? invitationFor(party, invited) : party.invitations.get(reservationKey(who));
  const against =
    whyNotInvited(party, who, invited) ??
    strange(state, party, id, who) ??
    (known ? undefined : tooMany(state, party, id, who));
  if (against) return against;
  const untilMs = at + party.policy.inviteMs;
  const event: PartyEvent = {
    kind: "party.invited",
    party: party.id,
    for: known?.for ?? who,
    name: "player" in who ? (invited?.name ?? null) : (known?.name ?? null),
    by: { id, name: member.name },
    untilMs,
  };
  return accept([event], { reply: () => ({ untilMs }) });
}

/** Of an account nothing is told that whoever invites it does not know. */
function whyNotInvited(party: Party, who: ReservedFor, invited: Player | undefined): Refusal | undefined {
  if (party.policy.invites === "nobody") {
    return refuse(
      "invites-not-yours",
      `In lobby ${party.lobby} nobody is invited into parties; give the party's code.`,
    );
  }
  if ("player" in who && invited === undefined) {
    return refuse("player-unknown", `There is no player ${who.player}; it has left.`);
  }
  if (invited !== undefined && party.members.has(invited.id)) {
    const whom = "player" in who ? invited.name : "Whoever that is";
    return refuse("already-in-party", `${whom} is in your party already.`);
  }
  if ("player" in who && invited !== undefined && invited.lobby !== party.lobby) {
    return refuse("player-unknown", `${invited.name} is in another lobby than your party.`);
  }
  const { size } = party.members;
  if (size < party.policy.maxSize) return undefined;
  return refuse("party-full", `The party has ${size} members, which is the most; somebody has to leave first.`);
}

/** Where only friends are invited it counts whom the inviter knows: whether an account is here is learnt by no invitation. */
function strange(state: RoomsPart, { policy, lobby }: Party, by: PlayerId, who: ReservedFor): Refusal | undefined {
  if (policy.invites !== "friends") return undefined;
  const account = "account" in who ? who.account : state.players.byId.get(who.player)?.identity?.account;
  if (knows(state, by, account)) return undefined;
  return refuse("not-friends", `In lobby ${lobby} only friends are invited into parties; give the party's code.`);
}

function tooMany({ parties }: RoomsPart, party: Party, by: PlayerId, who: ReservedFor): Refusal | undefined {
  const own = [...party.invitations.values()].filter((one) => one.by.id === by).length;
  if (own >= BY_ONE_MAX) {
    return refuse(
      "too-many-invitations",
      `You have invited ${own} players who have not come yet, which is the most; wait, or take one back.`,
    );
  }
  const others = parties.invitedTo.get(reservationKey(who))?.size ?? 0;
  if (others < FOR_ONE_MAX) return undefined;
  return refuse("too-many-invitations", `${FOR_ONE_MAX} parties invite that player already; try again later.`);
}

export function uninvite({ state }: RoomsContext, id: PlayerId, args: PlayerArgs<"party.uninvite">): Decision<Done> {
  const found = ownParty(state, id);
  if ("refused" in found) return found;
  const { party } = found;
  const who: ReservedFor = "account" in args ? { account: args.account } : { player: args.player };
  const invited = ownerOf(state, who);
  const known = invited ? invitationFor(party, invited) : party.invitations.get(reservationKey(who));
  if (known === undefined) {
    return refuse("not-invited", `Your party does not invite ${"account" in who ? who.account : who.player}.`);
  }
  if (party.leader !== id && known.by.id !== id) {
    return refuse("not-party-leader", `${known.by.name} has invited; only that one or the leader takes it back.`);
  }
  return accept([endedEvent(party, known, "cancelled")], { reply: done });
}

export function decline({ state }: RoomsContext, id: PlayerId, args: PlayerArgs<"party.decline">): Decision<Done> {
  const party = state.parties.byId.get(args.party);
  const player = state.players.byId.get(id);
  const known = party && player && invitationFor(party, player);
  if (party === undefined || known === undefined) {
    return refuse("not-invited", `You are not invited into party ${args.party}, or no longer.`);
  }
  return accept([endedEvent(party, known, "declined")], { reply: done });
}

const endedEvent = (party: Party, { for: who }: PartyInvitation, cause: "cancelled" | "declined"): PartyEvent => ({
  kind: "party.invitation-ended",
  party: party.id,
  for: who,
  cause,
});
