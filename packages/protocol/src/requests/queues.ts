import { z } from "zod";
import { isUnique } from "../config/parts.ts";
import { ConfigName, PlayerId } from "../ids.ts";
import { MatchId, QueueSummary, TicketId, TicketView } from "../queues.ts";
import { SettingKey, SettingValue } from "../settings.ts";
import { brought } from "./brought.ts";
import { Done, Nothing, NothingMore } from "./shapes.ts";

const TicketNeed = z.union([
  z.strictObject({ attribute: SettingKey, must: z.literal("equal") }),
  z.strictObject({ attribute: SettingKey, oneOf: z.array(SettingValue).max(64) }),
  z.strictObject({ attribute: SettingKey, from: z.number().optional(), to: z.number().optional() }),
]);

/** Searching for others to play with. */
export const queueRequests = {
  "queue.list": {
    summary: "The queues of one's lobby, and how many search in each.",
    args: Nothing,
    reply: z.object({ queues: z.array(QueueSummary) }),
  },
  "queue.join": {
    summary:
      "Begin to search: alone, as the leader of one's party with all who go along, or with others who are then asked.",
    args: z.strictObject({
      queue: ConfigName,
      also: z
        .array(ConfigName)
        .max(7)
        .refine(isUnique, "expected each queue once")
        .optional()
        .meta({ description: "Other queues of the same lobby to search in as well: the first match of any is it." }),
      with: z.array(PlayerId).max(7).optional().meta({
        description: "Others to search with this once; each has to agree. Instead of one's party.",
      }),
      alone: z.boolean().optional().meta({ description: "Search without one's party." }),
      ...brought,
      needs: z.array(TicketNeed).max(16).optional().meta({ description: "What the others of a match must have." }),
    }),
    reply: z.object({ ticket: TicketView }),
  },
  "queue.agree": {
    summary: "Agree to search with the party that asks. With the last to agree the search begins.",
    args: z.strictObject({ ticket: TicketId, ...brought }),
    reply: z.object({ ticket: TicketView }),
  },
  "queue.cancel": {
    summary: "Stop searching, or say no to the party that asks: for all of its members.",
    args: Nothing,
    reply: NothingMore,
  },
  "queue.confirm": {
    summary:
      "Accept the match that was found, or decline it. When all have accepted it becomes a room; who declines, or does not answer in time, stops searching and may not search again for a while.",
    args: z.strictObject({ match: MatchId, accept: z.boolean() }),
    reply: NothingMore,
  },
  "queue.backfill": {
    summary: "As host of a playing room that a queue made: have the queue replace players who left, or not.",
    args: z.strictObject({ wanted: z.boolean() }),
    reply: Done,
  },
  "queue.ticket": {
    summary: "Your ticket: how long it has waited, and how long such tickets usually wait.",
    args: Nothing,
    reply: z.object({ ticket: TicketView }),
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
