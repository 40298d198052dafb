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
  .meta({ description: "Where players appear relative to each other; up to the game when left out." });

export const Level = z
  .strictObject({
    title: z.string().min(1).max(64),
    players: z
      .strictObject({ min: Capacity, max: Capacity })
      .refine((p) => p.min <= p.max, { message: "expected min to be no more than max", path: ["min"] }),
    pool: ConfigName.optional().meta({
      description: "Pool whose instances run this level; without one it has no dedicated destination.",
    }),
    destinations: z
      .array(DestinationKind)
      .min(1)
      .refine(isUnique, "expected each destination once")
      .optional()
      .meta({ description: "Destinations it can be played at; any when left out." }),
    attributes: Settings.optional().meta({ description: "Attributes of the game's own; sent with each travel." }),
    spread: Spread,
  })
  .refine(({ pool, destinations }) => pool !== undefined || !destinations?.includes("dedicated"), {
    message: "a dedicated destination needs a pool",
    path: ["pool"],
  });
