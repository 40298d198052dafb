import { Capacity, ConfigName, DestinationKind, isUnique, Settings, SpreadShape } from "@yellow-harbor/protocol";
import { z } from "zod";

const Spread = z
  .strictObject({
    shape: SpreadShape.meta({ description: "ring: on a circle, all at the same distance; grid: in rows." }),
    gap: z.number().positive().max(1_000_000).meta({
      description: "Distance between neighbours, in the game's own unit of length.",
    }),
  })
  .optional()
  .meta({ description: "How players are spread where they appear; the game's own affair when absent." });

export const Level = z
  .strictObject({
    title: z.string().min(1).max(64),
    players: z
      .strictObject({ least: Capacity, most: Capacity })
      .refine((p) => p.least <= p.most, { message: "expected least to be no more than most", path: ["least"] }),
    pool: ConfigName.optional().meta({
      description: "Pool whose instances run this level; without one it has no dedicated destination.",
    }),
    destinations: z
      .array(DestinationKind)
      .min(1)
      .refine(isUnique, "expected each destination once")
      .optional()
      .meta({ description: "Kinds of destination it can be played at; any when absent." }),
    attributes: Settings.optional().meta({ description: "What the game keeps about it; told with each travel." }),
    spread: Spread,
  })
  .refine(({ pool, destinations }) => pool !== undefined || !destinations?.includes("dedicated"), {
    message: "a dedicated destination needs a pool",
    path: ["pool"],
  });
