import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { type DeepReadonly, orNull } from "./parts.ts";

/** A computer that runs instances. */
export const Machine = z.strictObject({
  driver: z.enum(["process", "simulated", "agent"]).default("process").meta({
    description:
      "process: instances are processes of this computer; simulated: they only seem to run, as in a remote data centre; agent: another computer, on which `yh agent` runs.",
  }),
  region: orNull(ConfigName.meta({ description: "Region it is in, by the names of the queues' latency regions." })),
  host: z.string().min(1).default("127.0.0.1").meta({ description: "Host at which players reach its instances." }),
  max: z.int().min(1).max(100_000).default(1_000).meta({ description: "Maximum of instances on it, of all pools." }),
  cpus: orNull(
    z
      .number()
      .gt(0)
      .max(100_000)
      .meta({ description: "CPUs for instances; what its agent or this computer has, when absent." }),
  ),
  memoryMb: orNull(
    z.int().min(1).max(1_000_000_000).meta({ description: "Memory for instances; what there is, when absent." }),
  ),
  preemptible: z.boolean().default(false).meta({
    description: "Whether it may be taken away at short notice: it is used when no other in reach has room.",
  }),
  pricePerSecond: orNull(
    z.number().min(0).max(1e6).meta({
      description: "Price of each second in which it runs at least one instance, in any currency.",
    }),
  ),
});
export type MachineRules = DeepReadonly<z.output<typeof Machine>>;
