import { z } from "zod";
import { CAPACITY_MAX } from "../limits.ts";
import { type DeepReadonly, Ms } from "./parts.ts";

/** How the players of a match are asked before it becomes a room. */
export const Confirm = z.strictObject({
  withinMs: Ms(15_000, "How long the players may take to answer.", { min: 1_000, max: 600_000 }),
  pausesMs: z
    .array(z.int().min(0).max(86_400_000))
    .min(1)
    .max(16)
    .refine((all) => all.every((pause, n) => n === 0 || pause >= (all[n - 1] ?? 0)), "expected pauses that do not fall")
    .default([10_000, 60_000, 300_000])
    .meta({
      description:
        "Until a player may search again after the first, second ... match in a row that it let go, in milliseconds; the last for all after.",
    }),
  forgetMs: Ms(3_600_000, "After so long without, the next counts as the first."),
});
export type ConfirmRules = DeepReadonly<z.output<typeof Confirm>>;

export const WhenLeft = z.enum(["play-on", "fill", "end"]).default("play-on").meta({
  description:
    "What becomes of a playing room of this queue when somebody leaves it: it plays on, asks the queue for somebody else, or ends.",
});

export const Fill = z
  .strictObject({
    withinMs: Ms(60_000, "How long a room asks after somebody has left."),
    most: z.int().min(1).max(CAPACITY_MAX).default(4).meta({
      description: "How many players may come into a room so, in all.",
    }),
  })
  .prefault({})
  .meta({ description: "With whenLeft: fill." });
export type FillRules = DeepReadonly<z.output<typeof Fill>>;
