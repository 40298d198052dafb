import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { AtMs } from "./basics.ts";
import { ConfigName, PlayerId, RoomId } from "./ids.ts";
import { BLOCKED_MAX, FRIENDS_MAX } from "./limits.ts";
import { Phase, Presence } from "./views.ts";

/** The accounts that a player knows, by the word of the game's back end. */
export const Friends = z
  .array(AccountId)
  .max(FRIENDS_MAX, `expected at most ${FRIENDS_MAX} accounts`)
  .transform((all) => [...new Set(all)]);

export const BlockedAccounts = z
  .array(AccountId)
  .max(BLOCKED_MAX, `expected at most ${BLOCKED_MAX} accounts`)
  .transform((all) => [...new Set(all)]);

const FriendRoom = z.object({
  id: RoomId.optional().meta({ description: "Absent of a room that one could not join or watch by it." }),
  name: z.string().optional(),
  kind: ConfigName,
  phase: Phase,
  isOpen: z.boolean().meta({ description: "Whether one could follow into it now, as far as the room is concerned." }),
  watches: z.boolean().optional().meta({ description: "true: it looks on there." }),
});

export const FriendView = z
  .object({
    account: AccountId,
    player: PlayerId,
    name: z.string(),
    presence: Presence,
    lobby: ConfigName,
    room: FriendRoom.optional().meta({ description: "The room it is in; absent while it is in the lobby." }),
  })
  .meta({
    id: "Friend",
    description: "Somebody one knows who is in the harbor: who, where, and whether one could follow.",
  });
export type FriendView = z.infer<typeof FriendView>;

/** What changed among those one knows: whole entries of those who came or changed, accounts of those who went. */
export const FriendsUpdate = z
  .object({ frame: z.literal("friends"), changed: z.array(FriendView), gone: z.array(AccountId) })
  .meta({ id: "FriendsUpdate", description: "What changed among the friends one follows." });
export type FriendsUpdate = z.infer<typeof FriendsUpdate>;

export const BlockedView = z
  .object({
    player: PlayerId.optional().meta({ description: "As which it was blocked." }),
    account: AccountId.optional().meta({ description: "When it was blocked by its account." }),
    name: z.string().optional().meta({ description: "As it was called then." }),
    chatOnly: z.boolean().optional().meta({ description: "true: only what it says is not heard." }),
  })
  .meta({ id: "Blocked", description: "Somebody of whom a player wants to hear nothing." });
export type BlockedView = z.infer<typeof BlockedView>;

export const ReportReason = z
  .enum(["abuse", "cheating", "leaving", "name", "spam", "other"])
  .meta({ id: "ReportReason", description: "What somebody is reported for." });
export type ReportReason = z.infer<typeof ReportReason>;

/** What somebody has said, as it is told with a report. */
export const SaidView = z
  .object({
    text: z.string(),
    to: z.enum(["lobby", "player"]).meta({ description: "To the lobby, or to the one who reports." }),
    atMs: AtMs,
  })
  .meta({ id: "ReportedMessage" });
export type SaidView = z.infer<typeof SaidView>;

/** Whom a player knows and whom it has blocked, as the game's back end says it. */
export const RelationsView = z
  .object({
    player: PlayerId,
    name: z.string(),
    friends: z.array(AccountId),
    blocked: z.array(BlockedView),
    hidden: z.boolean().meta({ description: "Whether its friends are not to see where it is." }),
  })
  .meta({ id: "Relations", description: "Whom a player knows, and of whom it wants to hear nothing." });
export type RelationsView = z.infer<typeof RelationsView>;

export const SetRelations = z
  .strictObject({
    friends: Friends.optional().meta({ description: "All accounts it knows; those of before when left out." }),
    blocked: BlockedAccounts.optional().meta({
      description: "All accounts it has blocked; those of before when left out.",
    }),
  })
  .refine(
    ({ friends, blocked }) => friends !== undefined || blocked !== undefined,
    "expected friends, blocked, or both",
  )
  .meta({ id: "SetRelations" });
export type SetRelations = z.infer<typeof SetRelations>;
