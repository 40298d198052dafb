import { z } from "zod";

export const CostRow = z
  .object({
    id: z.string(),
    seconds: z.number().meta({
      description: "Instance-seconds; of a room its part of them; of a machine those in which it ran at least one.",
    }),
    cost: z
      .number()
      .optional()
      .meta({ description: "Seconds times the price of the configuration, where one is named." }),
  })
  .meta({ id: "CostRow" });
export type CostRow = z.infer<typeof CostRow>;

export const CostsView = z
  .object({
    pools: z.array(CostRow),
    builds: z.array(CostRow).meta({ description: "By build line and version." }),
    machines: z.array(CostRow),
    rooms: z.array(CostRow).meta({ description: "Those that hold an instance, and the last thousand that did." }),
  })
  .meta({ id: "Costs", description: "What instances have run for since the harbor was founded, up to now." });
export type CostsView = z.infer<typeof CostsView>;
