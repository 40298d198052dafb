import {
  CODE_ALPHABET,
  PARTY_CODE_LENGTH,
  type PartyLeft,
  type PlayerArgs,
  type PlayerId,
  type PlayerReply,
} from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import type { Brought, Party, PartyMember } from "../model/parties/state.ts";
import type { Done } from "../model/replies.ts";
import { newId, type Random } from "../model/stamp.ts";
import type { RoomsPart } from "../model/state.ts";
import { done, invitationFor, memberFrom, nextLeader, ownParty } from "./members.ts";
import { partyView } from "./view.ts";

type InParty = PlayerReply<"party.open">;

const inParty =
  (id: PlayerId) =>
  (state: RoomsPart): InParty => {
    const party = state.parties.byId.get(state.parties.byPlayer.get(id) ?? "");
    if (party === undefined) throw new Error(`the party of ${id} is gone before its view was given`);
    return { party: partyView(party) };
  };

export function open(context: RoomsContext, id: PlayerId, args: PlayerArgs<"party.open">): Decision<InParty> {
  const { state, rules, random } = context;
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const present = whyNotAnother(state, id);
  if (present) return present;
  const policy = rules.lobbies.get(player.lobby)?.party;
  if (policy === undefined) return refuse("lobby-unknown", `Lobby ${player.lobby} is not configured any more.`);
  const opened: PartyEvent = {
    kind: "party.opened",
    party: newId("g", random),
    code: freeCode(state, random),
    lobby: player.lobby,
    policy,
    leader: memberFrom(state, player, brought(args)),
  };
  return accept([opened], { reply: inParty(id) });
}

function freeCode({ parties }: RoomsPart, random: Random): string {
  for (;;) {
    const one = () => CODE_ALPHABET[random.below(CODE_ALPHABET.length)] ?? "";
    const code = Array.from({ length: PARTY_CODE_LENGTH }, one).join("");
    if (!parties.byCode.has(code)) return code;
  }
}

const brought = ({ attributes = {}, latencyMs = {} }: Partial<Brought>): Brought => ({ attributes, latencyMs });

function whyNotAnother({ parties }: RoomsPart, id: PlayerId): Refusal | undefined {
  if (!parties.byPlayer.has(id)) return undefined;
  return refuse("already-in-party", "You are in a party already; leave it first with party.leave.");
}

export function join(context: RoomsContext, id: PlayerId, args: PlayerArgs<"party.join">): Decision<InParty> {
  const { state } = context;
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const party = state.parties.byId.get(("party" in args ? args.party : state.parties.byCode.get(args.code)) ?? "");
  const invitation = party && invitationFor(party, player);
  // Of a party that one is not invited to nobody learns by its id, not even that it is there.
  if (party === undefined || ("party" in args && invitation === undefined && !party.members.has(id))) {
    return "party" in args
      ? refuse("not-invited", `You are not invited into party ${args.party}, or no longer; ask for its code.`)
      : refuse("party-code-unknown", `No party has the code ${args.code}; check it with whoever gave it to you.`);
  }
  if (party.members.has(id)) return accept([], { reply: inParty(id) });
  const against = whyNotAnother(state, id) ?? whyNotIn(party, player.lobby);
  if (against) return against;
  const joined: PartyEvent = {
    kind: "party.joined",
    party: party.id,
    member: memberFrom(state, player, brought(args)),
    ...(invitation && { invited: invitation.for }),
  };
  return accept([joined], { reply: inParty(id) });
}

function whyNotIn({ lobby, members, policy }: Party, own: string): Refusal | undefined {
  if (lobby !== own) {
    return refuse("lobby-unknown", `The party is of lobby ${lobby}, and you are in ${own}; connect to that lobby.`);
  }
  if (members.size < policy.maxSize) return undefined;
  return refuse("party-full", `The party has ${members.size} members, which is the most; somebody has to leave first.`);
}

export function set(context: RoomsContext, id: PlayerId, args: PlayerArgs<"party.set">): Decision<InParty> {
  const found = ownParty(context.state, id);
  if ("refused" in found) return found;
  const { party, member } = found;
  const { follows = member.follows, attributes, latencyMs } = args;
  const isOther = follows !== member.follows;
  const brings = (attributes ?? latencyMs) && {
    attributes: attributes ?? member.brings.attributes,
    latencyMs: latencyMs ?? member.brings.latencyMs,
  };
  const changed: PartyEvent = {
    kind: "party.member-changed",
    party: party.id,
    player: id,
    ...(isOther && { follows }),
    ...(brings && { brings }),
  };
  return accept(isOther || brings ? [changed] : [], { reply: inParty(id) });
}

export function leave({ state }: RoomsContext, id: PlayerId): Decision<Done> {
  const found = ownParty(state, id);
  return "refused" in found ? found : accept(leftEvents(found.party, id, { cause: "left" }), { reply: done });
}

export function kick({ state }: RoomsContext, id: PlayerId, args: PlayerArgs<"party.kick">): Decision<Done> {
  const found = memberFor(state, { leader: id, other: args.player }, "remove members");
  if ("refused" in found) return found;
  if (args.player === id) return refuse("member-unknown", "You lead the party; leave it with party.leave.");
  return accept(leftEvents(found.party, args.player, { cause: "kicked", why: args.reason }), { reply: done });
}

export function handOver({ state }: RoomsContext, id: PlayerId, { to }: PlayerArgs<"party.hand-over">): Decision<Done> {
  const found = memberFor(state, { leader: id, other: to }, "hand it over");
  if ("refused" in found) return found;
  const { party, member } = found;
  if (member.presence === "away") {
    return refuse("member-unknown", `${member.name} is away; hand over to somebody who is here.`);
  }
  const led: PartyEvent = { kind: "party.led", party: party.id, leader: to, cause: "given" };
  return accept(party.leader === to ? [] : [led], { reply: done });
}

function memberFor(
  state: RoomsPart,
  { leader, other }: { readonly leader: PlayerId; readonly other: PlayerId },
  power: string,
): { readonly party: Party; readonly member: PartyMember } | Refusal {
  const found = ownParty(state, leader, power);
  if ("refused" in found) return found;
  const member = found.party.members.get(other);
  if (member === undefined) {
    return refuse("member-unknown", `${other} is not in your party; look at its members in the party's state.`);
  }
  return { party: found.party, member };
}

/** What goes with the departure of a member; with the last the party is gone, and nobody is invited into it any more. */
export function leftEvents(
  party: Party,
  player: PlayerId,
  { cause, why }: { readonly cause: PartyLeft; readonly why?: string | undefined },
): PartyEvent[] {
  const isLast = party.members.size === 1;
  const ended = (isLast ? [...party.invitations.values()] : []).map(
    (one): PartyEvent => ({ kind: "party.invitation-ended", party: party.id, for: one.for, cause: "closed" }),
  );
  const next = party.leader === player ? nextLeader(party, player) : undefined;
  const left: PartyEvent = {
    kind: "party.left",
    party: party.id,
    player,
    name: party.members.get(player)?.name ?? player,
    cause,
    ...(why !== undefined && { why }),
    ...(next !== undefined && { leader: next }),
  };
  return [...ended, left];
}
