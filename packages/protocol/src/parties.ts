import { z } from "zod";
import { AtMs } from "./basics.ts";
import { ConfigName, PartyId, PlayerId, RoomId } from "./ids.ts";
import { PARTY_CODE_LENGTH } from "./limits.ts";
import { Presence } from "./views.ts";

/** A party's code as people type it: any case, spaces and hyphens between are forgiven. The parsed value is upper case. */
export const PartyCode = z
  .string()
  .min(1, "expected the code of a party")
  .max(24, `expected a party code of ${PARTY_CODE_LENGTH} characters`)
  .transform((typed) => typed.replace(/[\s-]/g, "").toUpperCase());

const Inviter = z.object({ id: PlayerId, name: z.string() });

export const PartyMemberView = z
  .object({
    id: PlayerId,
    name: z.string(),
    presence: Presence,
    follows: z.boolean().meta({ description: "Whether it goes along into rooms and queues with the leader." }),
    room: z
      .object({ id: RoomId, code: z.string() })
      .optional()
      .meta({ description: "The room it is in; absent while it is in the lobby." }),
  })
  .meta({ id: "PartyMember" });
export type PartyMemberView = z.infer<typeof PartyMemberView>;

export const PartyView = z
  .object({
    id: PartyId,
    code: z.string().meta({ description: "By which others join it." }),
    lobby: ConfigName,
    leader: PlayerId,
    maxSize: z.int(),
    members: z.array(PartyMemberView).meta({ description: "In the order in which they came." }),
    invited: z
      .array(z.object({ name: z.string().optional(), by: Inviter, untilMs: AtMs }))
      .optional()
      .meta({ description: "Who is invited and has not come yet; without a name for an account." }),
    sinceMs: AtMs,
  })
  .meta({ id: "Party", description: "Players who stay together through rooms, queues and matches." });
export type PartyView = z.infer<typeof PartyView>;

export const PartyInvitationView = z
  .object({
    party: PartyId,
    by: Inviter,
    members: z.int().meta({ description: "How many are in the party." }),
    untilMs: AtMs.meta({ description: "Until when the invitation stands." }),
  })
  .meta({ id: "PartyInvitation", description: "An invitation into a party. It is accepted with `party.join`." });
export type PartyInvitationView = z.infer<typeof PartyInvitationView>;

/** Why somebody is in a party no longer. */
export const PartyLeft = z.enum(["left", "kicked", "gone"]).meta({
  id: "PartyLeft",
  description: "left by itself; kicked by the leader; gone from the harbor, or lost for longer than its grace.",
});
export type PartyLeft = z.infer<typeof PartyLeft>;

/** What has happened in a party, to its members. */
export const PartyChange = z
  .enum(["opened", "joined", "left", "leader", "invited", "invitation-ended", "member"])
  .meta({
    id: "PartyChange",
    description:
      "opened; somebody joined or left; another leads; somebody is invited, or is so no longer; something of a member is other: presence, room, or whether it follows.",
  });
export type PartyChange = z.infer<typeof PartyChange>;

export const PartyList = z
  .object({ parties: z.array(PartyView), total: z.int() })
  .meta({ id: "PartyList", description: "Parties, the oldest first." });
export type PartyList = z.infer<typeof PartyList>;

export const PartyQuery = z.object({
  lobby: ConfigName.optional(),
  limit: z.coerce.number().int().min(1).max(1_000).default(100),
});
