import type { PartyId, PlayerId, ReservedFor } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { PartyAsk, PartyCommand } from "../model/parties/commands.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import type { Party, PartyMember } from "../model/parties/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { bring } from "./decide-bringing.ts";
import { decline, invite, uninvite } from "./decide-inviting.ts";
import { handOver, join, kick, leave, leftEvents, open, set } from "./decide-members.ts";
import { nextLeader, whereabouts } from "./members.ts";

type Asked<A extends PartyAsk> = Extract<PartyCommand, { do: A }>;

const asked =
  <A extends PartyAsk, D>(decide: (context: RoomsContext, player: PlayerId, args: Asked<A>["args"]) => D) =>
  (context: RoomsContext, { player, args }: Pick<Asked<A>, "player" | "args">): D =>
    decide(context, player, args);

export const decideParty = decideBy<PartyCommand, RoomsPart>({
  "party.open": asked<"party.open", ReturnType<typeof open>>(open),
  "party.join": asked<"party.join", ReturnType<typeof join>>(join),
  "party.leave": (context, { player }) => leave(context, player),
  "party.set": asked<"party.set", ReturnType<typeof set>>(set),
  "party.invite": asked<"party.invite", ReturnType<typeof invite>>(invite),
  "party.uninvite": asked<"party.uninvite", ReturnType<typeof uninvite>>(uninvite),
  "party.decline": asked<"party.decline", ReturnType<typeof decline>>(decline),
  "party.kick": asked<"party.kick", ReturnType<typeof kick>>(kick),
  "party.hand-over": asked<"party.hand-over", ReturnType<typeof handOver>>(handOver),
  "party.bring": (context, { player }) => bring(context, player),
  "party.check-member": (context, { player }) => checkMember(context, player),
  "party.drop-player": (context, { player }) => dropPlayer(context, player),
  "party.check-leader": (context, { party }) => checkLeader(context, party),
  "party.invitations-late": (context, { party }) => invitationsLate(context, party),
});

export const partyOf = ({ parties }: RoomsPart, player: PlayerId): Party | undefined =>
  parties.byId.get(parties.byPlayer.get(player) ?? "");

const isSameRoom = (one: PartyMember["room"], other: PartyMember["room"]) => one?.id === other?.id;

/** Tells the party what has become of a member since it was told last. */
function checkMember({ state }: RoomsContext, id: PlayerId): Decision {
  const party = partyOf(state, id);
  const member = party?.members.get(id);
  if (party === undefined || member === undefined) return nothingToDo;
  const { presence, room } = whereabouts(state, id);
  const isOther = { presence: presence !== member.presence, room: !isSameRoom(room, member.room) };
  if (!isOther.presence && !isOther.room) return nothingToDo;
  const changed: PartyEvent = {
    kind: "party.member-changed",
    party: party.id,
    player: id,
    ...(isOther.presence && { presence }),
    ...(isOther.room && { room }),
  };
  return accept([changed]);
}

function dropPlayer({ state }: RoomsContext, id: PlayerId): Decision {
  const party = partyOf(state, id);
  return party === undefined ? nothingToDo : accept(leftEvents(party, id, { cause: "gone" }));
}

/** A leader who is away for long leads no more, where somebody else is here to do it. */
function checkLeader({ state, at }: RoomsContext, id: PartyId): Decision {
  const party = state.parties.byId.get(id);
  if (party === undefined || party.leaderAwaySinceMs === null) return nothingToDo;
  if (at - party.leaderAwaySinceMs < party.policy.leaderGraceMs) return nothingToDo;
  const next = nextLeader(party, party.leader);
  if (next === undefined || party.members.get(next)?.presence !== "here") return nothingToDo;
  return accept([{ kind: "party.led", party: id, leader: next, cause: "lost" }]);
}

function invitationsLate({ state, at }: RoomsContext, id: PartyId): Decision {
  const party = state.parties.byId.get(id);
  if (party === undefined) return nothingToDo;
  const late = [...party.invitations.values()].filter(({ untilMs }) => untilMs <= at);
  const ended = (one: ReservedFor): PartyEvent => ({
    kind: "party.invitation-ended",
    party: id,
    for: one,
    cause: "expired",
  });
  return accept(late.map((one) => ended(one.for)));
}
