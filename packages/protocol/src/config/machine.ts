import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { type DeepReadonly, orNull } from "./parts.ts";

/** A computer that runs instances. */
export const Machine = z.strictObject({
  driver: z.enum(["process", "simulated", "agent"]).default("process").meta({
    description:
      "process: its instances are processes of this computer; simulated: they only seem to run, as in a distant data centre; agent: `yh agent` runs on it.",
  }),
  region: orNull(ConfigName.meta({ description: "Where it stands, in the words of the queues' latency regions." })),
  host: z.string().min(1).default("127.0.0.1").meta({ description: "Host at which players reach its instances." }),
  most: z.int().min(1).max(100_000).default(1_000).meta({ description: "Most instances of all pools on it." }),
  pricePerS: orNull(
    z.number().min(0).max(1e6).meta({
      description: "Price of a second in which it runs at least one instance, in any currency.",
    }),
  ),
});
export type MachineRules = DeepReadonly<z.output<typeof Machine>>;
