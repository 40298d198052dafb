import { z } from "zod";
import { CAPACITY_MAX } from "../limits.ts";
import { type DeepReadonly, Ms } from "./parts.ts";

const pauses = (defaults: number[], what: string) =>
  z
    .array(z.int().min(0).max(86_400_000))
    .min(1)
    .max(16)
    .refine((all) => all.every((pause, n) => n === 0 || pause >= (all[n - 1] ?? 0)), "expected pauses that do not fall")
    .default(defaults)
    .meta({
      description: `How long a player cannot search after the first, second ... match ${what}, in milliseconds; the last value for all after that.`,
    });

/** How the players of a match are asked before it becomes a room. */
export const Confirm = z.strictObject({
  withinMs: Ms(15_000, "How long the players have to confirm.", { min: 1_000, max: 600_000 }),
  pausesMs: pauses([10_000, 60_000, 300_000], "in a row that it did not confirm"),
  forgetMs: Ms(3_600_000, "After this long without one, the next counts as the first."),
});
export type ConfirmRules = DeepReadonly<z.output<typeof Confirm>>;

/** What it costs to leave a match that is being played. */
export const Leavers = z.strictObject({
  pausesMs: pauses([60_000, 300_000, 1_800_000], "that it left while it was played"),
  forgetMs: Ms(86_400_000, "After this long without one, the next counts as the first.", { max: 2_592_000_000 }),
});
export type LeaverRules = DeepReadonly<z.output<typeof Leavers>>;

export const WhenLeft = z.enum(["play-on", "backfill", "end"]).default("play-on").meta({
  description:
    "What happens to a playing room of this queue when somebody leaves: it plays on, the queue looks for a replacement, or it ends.",
});

export const Backfill = z
  .strictObject({
    withinMs: Ms(60_000, "How long the queue looks for a replacement."),
    max: z.int().min(1).max(CAPACITY_MAX).default(4).meta({
      description: "Maximum of players that replace others in one room, in all.",
    }),
  })
  .prefault({})
  .meta({ description: "With whenLeft: backfill." });
export type BackfillRules = DeepReadonly<z.output<typeof Backfill>>;
