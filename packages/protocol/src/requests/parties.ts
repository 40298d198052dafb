import { z } from "zod";
import { AccountId } from "../accounts.ts";
import { AtMs } from "../basics.ts";
import { PartyId, PlayerId } from "../ids.ts";
import { PartyCode, PartyView } from "../parties.ts";
import { Reason } from "../text.ts";
import { brought } from "./brought.ts";
import { Nothing, NothingMore } from "./shapes.ts";

const InParty = z.object({ party: PartyView });

/** Players who stay together, outside of queues and in them. */
export const partyRequests = {
  "party.open": {
    summary: "Found a party and lead it.",
    args: z.strictObject(brought),
    reply: InParty,
  },
  "party.join": {
    summary: "Join a party by its code, or by an invitation into it.",
    args: z.union([z.strictObject({ party: PartyId, ...brought }), z.strictObject({ code: PartyCode, ...brought })]),
    reply: InParty,
  },
  "party.leave": {
    summary: "Leave the party. Its search ends with that; the room one is in stays as it is.",
    args: Nothing,
    reply: NothingMore,
  },
  "party.set": {
    summary: "Say what one brings to the party's searches, and whether one goes along with the leader.",
    args: z.strictObject({
      follows: z.boolean().optional().meta({
        description: "Whether one goes along into rooms and queues; true for whoever joins.",
      }),
      ...brought,
    }),
    reply: InParty,
  },
  "party.invite": {
    summary: "Invite a player into the party. The invitation lies there and ends by itself.",
    args: z.union([
      z.strictObject({ player: PlayerId }),
      z.strictObject({
        account: AccountId.meta({ description: "Whether it is connected or not: nobody learns that by inviting it." }),
      }),
    ]),
    reply: z.object({ untilMs: AtMs.meta({ description: "Until when the invitation stands." }) }),
  },
  "party.uninvite": {
    summary: "Take an invitation back: one's own, or as leader any.",
    args: z.union([z.strictObject({ player: PlayerId }), z.strictObject({ account: AccountId })]),
    reply: NothingMore,
  },
  "party.decline": {
    summary: "Decline an invitation into a party.",
    args: z.strictObject({ party: PartyId }),
    reply: NothingMore,
  },
  "party.kick": {
    summary: "As leader: remove a member from the party.",
    args: z.strictObject({ player: PlayerId, reason: Reason.optional() }),
    reply: NothingMore,
  },
  "party.hand-over": {
    summary: "As leader: have another member lead.",
    args: z.strictObject({ to: PlayerId }),
    reply: NothingMore,
  },
  "party.bring": {
    summary: "As leader who is in a room: bring in all who go along, from the lobby or from other rooms.",
    args: Nothing,
    reply: z.object({ came: z.array(PlayerId) }),
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
