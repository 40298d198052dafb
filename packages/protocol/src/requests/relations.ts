import { z } from "zod";
import { AccountId } from "../accounts.ts";
import { PlayerId } from "../ids.ts";
import { BlockedView, FriendView, ReportReason } from "../relations.ts";
import { ChatMessage, Reason } from "../text.ts";
import { Nothing, NothingMore } from "./shapes.ts";

const Who = z.union([z.strictObject({ player: PlayerId }), z.strictObject({ account: AccountId })]);

const chatOnly = z.boolean().optional().meta({
  description: "Hear nothing that it says, and no more than that: invitations and being seen stay as they are.",
});
const Whom = z.union([
  z.strictObject({ player: PlayerId, chatOnly }),
  z.strictObject({ account: AccountId, chatOnly }),
]);

const Here = z.object({
  friends: z.array(FriendView).meta({ description: "Those who are in the harbor, here or away." }),
});
const Blocked = z.object({ blocked: z.array(BlockedView) });

/** Whom one knows, and of whom one wants to hear nothing. */
export const relationRequests = {
  "friends.list": {
    summary:
      "Those one knows who are in the harbor: where, and whether one could follow. The game's back end says whom.",
    args: Nothing,
    reply: Here,
  },
  "friends.follow": {
    summary: "The same, and from then on what changes in it, as frames of kind friends.",
    args: Nothing,
    reply: Here,
  },
  "friends.unfollow": {
    summary: "Stop following one's friends.",
    args: Nothing,
    reply: NothingMore,
  },
  "friends.hide": {
    summary: "Have one's friends see nothing of where one is, or let them see it again.",
    args: z.strictObject({ hidden: z.boolean() }),
    reply: NothingMore,
  },
  "blocks.list": {
    summary: "Of whom one wants to hear nothing.",
    args: Nothing,
    reply: Blocked,
  },
  "blocks.add": {
    summary:
      "Hear nothing of somebody any more: no chat, no messages, no invitations; as a friend it sees nothing of one. Nobody is told.",
    args: Whom,
    reply: Blocked,
  },
  "player.message": {
    summary: "Say something to one player of one's lobby, in a room or not, where the lobby lets people.",
    args: z.strictObject({ to: PlayerId, text: ChatMessage }),
    reply: z.object({ delivered: z.boolean().meta({ description: "Whether it is connected and was sent it." }) }),
  },
  "player.report": {
    summary: "Tell those who run the game of somebody's conduct, with what it said lately.",
    args: z.strictObject({
      player: PlayerId.meta({ description: "Who is here, or has said something lately." }),
      reason: ReportReason,
      text: Reason.optional().meta({ description: "In one's own words." }),
    }),
    reply: NothingMore,
  },
  "blocks.remove": {
    summary: "Hear of it again.",
    args: Who,
    reply: Blocked,
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
