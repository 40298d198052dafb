import { z } from "zod";
import { AccountId } from "../accounts.ts";
import { AtMs } from "../basics.ts";
import { PlayerId, RoomId, SideName } from "../ids.ts";
import { InvitationView } from "../invitations.ts";
import { PartyInvitationView } from "../parties.ts";
import { Done, NothingMore } from "./shapes.ts";

const Side = SideName.optional().meta({ description: "Side on which its place is." });

/** Places that are kept for those who are invited. */
export const invitingRequests = {
  "room.invite": {
    summary: "Invite a player into one's room: a place is kept for it, also while the room is locked or plays.",
    args: z.union([
      z.strictObject({ player: PlayerId, side: Side }),
      z.strictObject({
        account: AccountId.meta({ description: "Whether it is connected or not: nobody learns that by inviting it." }),
        side: Side,
      }),
    ]),
    reply: z.object({ untilMs: AtMs.meta({ description: "Until when the place is kept." }) }),
  },
  "room.uninvite": {
    summary: "Take an invitation back: one's own, or as host any.",
    args: z.union([z.strictObject({ player: PlayerId }), z.strictObject({ account: AccountId })]),
    reply: Done,
  },
  "room.decline": {
    summary: "Decline an invitation: the place is free for others.",
    args: z.strictObject({ room: RoomId }),
    reply: NothingMore,
  },
  "room.mute-invites": {
    summary: "Hear of no invitation, or hear of them again. Muted ones end by themselves, and nobody learns of it.",
    args: z.strictObject({
      muted: z.boolean(),
      exceptFriends: z.boolean().optional().meta({ description: "With muted: hear of those by friends all the same." }),
    }),
    reply: z.object({
      invitations: z
        .array(InvitationView)
        .meta({ description: "Those into rooms; none while muted, but of friends where they are excepted." }),
      partyInvitations: z.array(PartyInvitationView).meta({ description: "Those into parties." }),
    }),
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
