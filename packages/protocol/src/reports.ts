import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { AtMs } from "./basics.ts";
import { ConfigName, PlayerId, RoomId, RunId } from "./ids.ts";
import { ReportReason, SaidView } from "./relations.ts";

const Who = z.object({ id: PlayerId, name: z.string(), account: AccountId.optional() });

export const ReportView = z
  .object({
    number: z.int().meta({ description: "Of the event in the journal." }),
    atMs: AtMs,
    player: Who.meta({ description: "Who is reported." }),
    by: Who,
    reason: ReportReason,
    text: z.string().optional(),
    lobby: ConfigName,
    room: RoomId.optional(),
    run: RunId.optional(),
    said: z.array(SaidView),
  })
  .meta({ id: "PlayerReport", description: "What a player has told of another's conduct." });
export type ReportView = z.infer<typeof ReportView>;

export const ReportList = z
  .object({
    reports: z.array(ReportView),
    lookedBackMs: AtMs.optional().meta({
      description:
        "How far the journal was looked through, when there may be older ones; it is in order from there back.",
    }),
  })
  .meta({ id: "PlayerReportList", description: "Reports, the newest first." });
export type ReportList = z.infer<typeof ReportList>;

export const ReportQuery = z.object({
  limit: z.coerce.number().int().min(1).max(200).default(50),
  about: z.string().max(200).optional().meta({ description: "Only of this player, by id or account." }),
});
