import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { type DeepReadonly, Ms, orNull, Port } from "./parts.ts";

/** How many instances a pool keeps ready. Without it instances are started only when a room asks. */
export const Plan = z.strictObject({
  least: z.int().min(0).max(10_000).default(0).meta({ description: "Fewest instances, whatever the demand." }),
  spare: z.int().min(0).max(10_000).default(1).meta({
    description: "Instances that are open and free, beside those that are needed.",
  }),
  spareShare: z.number().min(0).max(10).default(0).meta({
    description: "The same as a share of those that rooms hold; the larger of both counts.",
  }),
  settleMs: Ms(60_000, "The need has to be lower for so long before instances are retired.", { min: 0 }),
  giveUpAfter: z.int().min(1).max(1_000).default(6).meta({
    description:
      "After so many instances in a row that never came up nothing is ordered ahead, until `yh pool resume`.",
  }),
  asideMs: Ms(5_000, "One that is to be retired may be taken back for so long before it is stopped.", { min: 0 }),
});
export type PlanRules = DeepReadonly<z.output<typeof Plan>>;

/** A pool, as it stands in the configuration. */
export const Pool = z.strictObject({
  build: ConfigName,
  machines: z.array(ConfigName).min(1).max(100).default(["here"]).meta({
    description: "Machines that its instances run on; `here` is this computer.",
  }),
  host: orNull(
    z.string().min(1).meta({
      description: "Host at which players reach the instances; the machine's when absent.",
    }),
  ),
  environment: z
    .record(z.string().regex(/^[A-Za-z_][A-Za-z0-9_]*$/), z.string().max(4096))
    .default({})
    .meta({
      description: "More of the environment of its instances, over that of the build.",
    }),
  ports: z
    .strictObject({ from: Port, to: Port })
    .refine((p) => p.from <= p.to, { message: "expected from to be no more than to", path: ["from"] })
    .meta({ description: "Port range, both ends included; each instance gets a port of its own." }),
  most: z.int().min(1).max(10_000).default(10).meta({ description: "Most instances at once." }),
  plan: orNull(Plan.meta({ description: "Keep instances ready; without it one is started when a room asks." })),
  reuse: z.enum(["room", "any"]).default("room").meta({
    description:
      "Whom an instance serves: one room until that lets go of it, or, with a plan, any room after the other.",
  }),
  bootMs: Ms(20_000, "From the order until an instance is announced and reached."),
  silenceMs: Ms(15_000, "After so long without a pulse an instance counts as failed."),
  drainMs: Ms(3_600_000, "How long one that drains goes on for those who are in it.", { max: 7 * 86_400_000 }),
  stopMs: Ms(5_000, "From the order to stop until a signal, and from the signal until the process is killed."),
  portRestMs: Ms(10_000, "How long a port rests after its instance has ended.", { min: 0 }),
  forgetMs: Ms(60_000, "How long an ended instance stays in view.", { min: 0 }),
  pricePerS: orNull(
    z.number().min(0).max(1e6).meta({
      description: "Price of a second of one of its instances, in any currency.",
    }),
  ),
});
export type PoolRules = Omit<DeepReadonly<z.output<typeof Pool>>, "environment">;
