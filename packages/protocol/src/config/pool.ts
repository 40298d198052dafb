import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { BuildString } from "../text.ts";
import { type DeepReadonly, Ms, orNull, Port } from "./parts.ts";

/** A time that comes again, in which a pool is to be larger. */
const ScheduledTime = z.strictObject({
  when: z.string().min(9).max(100).meta({
    description: "When it begins, as a cron expression: minute, hour, day of the month, month, day of the week.",
  }),
  timeZone: z
    .string()
    .min(1)
    .max(64)
    .default("UTC")
    .meta({ description: "Of the IANA database, such as Europe/Berlin." }),
  lastsMs: Ms(0, "How long it lasts.", { min: 60_000, max: 7 * 86_400_000 }),
  min: z.int().min(0).max(10_000).default(0).meta({ description: "Minimum of instances meanwhile." }),
  spare: z.int().min(0).max(10_000).default(0).meta({ description: "Instances to spare meanwhile." }),
});
export type ScheduledTime = z.output<typeof ScheduledTime>;

/** How many instances a pool keeps ready. Without it instances are started only when a room asks. */
export const Plan = z.strictObject({
  min: z.int().min(0).max(10_000).default(0).meta({ description: "Minimum of instances, whatever the demand." }),
  spare: z.int().min(0).max(10_000).default(1).meta({
    description: "Open, free instances to keep beside those that are needed.",
  }),
  spareShare: z.number().min(0).max(10).default(0).meta({
    description: "The same as a share of those that rooms hold; the larger of both counts.",
  }),
  spareIn: z
    .record(ConfigName, z.int().min(0).max(10_000))
    .default({})
    .meta({ description: "Of these, at least so many in each region, on its machines." }),
  schedule: z.array(ScheduledTime).max(32).default([]).meta({
    description: "Times at which it is to be larger; minimum and spare are the largest of those that are on.",
  }),
  costPerHour: orNull(
    z.number().gt(0).max(1e9).meta({
      description: "Nothing is launched ahead beyond what costs so much, by pricePerSecond. Rooms still get theirs.",
    }),
  ),
  cooldownMs: Ms(60_000, "How long the need must be lower before instances are retired.", { min: 0 }),
  giveUpAfter: z.int().min(1).max(1_000).default(6).meta({
    description:
      "After this many instances in a row that never came up, none is launched ahead until `yh pool resume`.",
  }),
  reclaimMs: Ms(
    5_000,
    "How long an instance that is to be retired drains before it is stopped; meanwhile it can be reclaimed.",
    { min: 0 },
  ),
});
export type PlanRules = DeepReadonly<z.output<typeof Plan>>;

const ByClient = z
  .strictObject({
    build: ConfigName,
    clients: z.array(BuildString).min(1).max(64).optional().meta({ description: "Builds of clients that it is for." }),
    from: BuildString.optional().meta({ description: "The first, in an order where 0.10 comes after 0.9." }),
    to: BuildString.optional().meta({ description: "The last, itself included." }),
  })
  .refine(
    ({ clients, from, to }) => (clients === undefined) === (from !== undefined || to !== undefined),
    "expected clients, or from and to",
  );

/** A pool, as it stands in the configuration. */
export const Pool = z.strictObject({
  build: ConfigName,
  byClient: orNull(
    z.union([z.literal("exact"), z.array(ByClient).min(1).max(64)]).meta({
      description:
        "What rooms get by the build of their clients. exact: the version of the line that has its very name; a list: the first build that is for it, and `build` for all others.",
    }),
  ),
  machines: z.array(ConfigName).min(1).max(2_000).default(["here"]).meta({
    description: "Machines and groups of machines that its instances run on; `here` is this computer.",
  }),
  placement: z
    .strictObject({
      by: z.enum(["spread", "pack"]).default("spread").meta({
        description: "spread: the machine with the most free goes first; pack: the fullest that has room.",
      }),
      apart: z.boolean().default(false).meta({
        description: "Machines that run the fewest instances of the same build go first, before anything is compared.",
      }),
    })
    .prefault({})
    .meta({ description: "Which of several machines an instance is launched on, after region." }),
  host: orNull(
    z.string().min(1).meta({
      description: "Host at which players reach the instances; the machine's when absent.",
    }),
  ),
  environment: z
    .record(z.string().regex(/^[A-Za-z_][A-Za-z0-9_]*$/), z.string().max(4096))
    .default({})
    .meta({
      description: "More environment variables of its instances; they replace those of the build.",
    }),
  ports: z
    .strictObject({ from: Port, to: Port })
    .refine((p) => p.from <= p.to, { message: "expected from to be no more than to", path: ["from"] })
    .meta({ description: "Port range, both ends included; each instance gets a port of its own." }),
  max: z.int().min(1).max(100_000).default(10).meta({ description: "Maximum of instances at once." }),
  plan: orNull(
    Plan.meta({ description: "Keep instances ready; without it an instance is launched when a room asks." }),
  ),
  reuse: z.enum(["room", "any"]).default("room").meta({
    description:
      "room: an instance serves one room and ends with it; any, with a plan: it serves one room after the other.",
  }),
  bootMs: Ms(20_000, "From the launch until an instance is announced and reached."),
  silenceMs: Ms(15_000, "After this long without a poll an instance counts as failed."),
  drainMs: Ms(3_600_000, "How long a draining instance goes on for the players in it.", { max: 7 * 86_400_000 }),
  stopMs: Ms(5_000, "From the instruction to stop until a signal, and from the signal until the process is killed."),
  portRestMs: Ms(10_000, "How long a port rests after its instance has ended.", { min: 0 }),
  forgetMs: Ms(60_000, "How long an ended instance stays in view.", { min: 0 }),
  pricePerSecond: orNull(
    z.number().min(0).max(1e6).meta({
      description: "Price of one instance-second, in any currency.",
    }),
  ),
});
export type PoolRules = Omit<DeepReadonly<z.output<typeof Pool>>, "environment">;

/** Build lines that a pool may run. */
export const linesOf = ({ build, byClient }: Pick<PoolRules, "build" | "byClient">): ConfigName[] =>
  byClient === null || byClient === "exact" ? [build] : [build, ...byClient.map((one) => one.build)];
