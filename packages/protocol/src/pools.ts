import { z } from "zod";
import { ConfigName } from "./ids.ts";

export const PoolView = z
  .object({
    id: ConfigName,
    build: ConfigName,
    max: z.int(),
    mode: z.enum(["open", "paused"]).meta({ description: "paused: the planner instructions and retires nothing." }),
    pinned: z.int().optional().meta({ description: "So many instances whatever the demand, by an operator's word." }),
    live: z.int().meta({ description: "Instances that run or come up, but for those that are draining." }),
    held: z.int().meta({ description: "Of these, held by rooms." }),
    idle: z.int().meta({ description: "Of these, open and free." }),
    coming: z.int().meta({ description: "Of these, on their way up." }),
    draining: z.int(),
    failures: z.int().meta({ description: "Instances in a row that failed before they were open." }),
    plan: z
      .object({
        wanted: z.int(),
        live: z.int(),
        spare: z.int(),
        meanwhile: z.int().meta({ description: "Asked for while a new instance comes up." }),
        why: z.enum(["demand", "min", "max", "cost", "pinned"]),
        heldBack: z
          .int()
          .meta({ description: "Instances that are wanted, and not launched for what they would cost." }),
        launch: z.int().meta({ description: "Instances that it would launch now." }),
        retire: z.int().meta({ description: "Instances that it would retire now." }),
        ratePerS: z.number().meta({ description: "Rooms that asked for an instance by the second, over a minute." }),
        bootS: z.number().meta({ description: "Boot time from launch to open, p90, in seconds." }),
      })
      .optional()
      .meta({ description: "Absent for a pool that keeps nothing ready." }),
    windows: z
      .array(
        z.object({
          id: z.string(),
          fromMs: z.int(),
          untilMs: z.int(),
          min: z.int(),
          spare: z.int(),
          why: z.string(),
        }),
      )
      .optional()
      .meta({ description: "Times in which it is to be larger, now or to come." }),
    text: z.array(z.string()).meta({ description: "The plan in words, with the numbers it was made from." }),
  })
  .meta({ id: "Pool", description: "A pool, and how many instances it should run." });
export type PoolView = z.infer<typeof PoolView>;

export const PoolList = z.object({ pools: z.array(PoolView) }).meta({ id: "PoolList" });
export type PoolList = z.infer<typeof PoolList>;

export const MachineMode = z.enum(["open", "cordoned", "draining"]).meta({
  id: "MachineMode",
  description:
    "open: instances are launched there; cordoned: none is, and what runs goes on; draining: what runs takes no new room, and stops when its matches are over.",
});
export type MachineMode = z.infer<typeof MachineMode>;

const MachineShare = z.object({
  all: z.number(),
  reserved: z.number().meta({ description: "By the needs of the builds of its instances." }),
});

export const SetMachineMode = z
  .strictObject({
    mode: MachineMode,
    withinMs: z
      .int()
      .min(0)
      .max(7 * 86_400_000)
      .optional()
      .meta({
        description: "With draining: matches that are not over by then are stopped; the pool's drainMs when absent.",
      }),
    reason: z.string().max(200).optional(),
  })
  .meta({ id: "SetMachineMode" });
export type SetMachineMode = z.infer<typeof SetMachineMode>;

export const MachineView = z
  .object({
    id: ConfigName,
    driver: z.enum(["process", "simulated", "agent"]),
    region: z.string().optional(),
    group: ConfigName.optional().meta({ description: "Of one that has joined by itself." }),
    host: z.string(),
    max: z.int(),
    running: z.int().meta({ description: "Instances of all pools that run on it or come up." }),
    isThere: z.boolean().meta({ description: "false while its agent is not connected: nothing is started there." }),
    sinceMs: z.int().optional(),
    why: z.string().optional(),
    mode: MachineMode.optional().meta({ description: "open when absent." }),
    untilMs: z.int().optional().meta({ description: "While it drains: when what is left there is stopped." }),
    cpus: MachineShare.optional().meta({ description: "CPUs, where a number of them is known." }),
    memoryMb: MachineShare.optional().meta({ description: "Memory in MiB, where it is known." }),
    load: z.number().optional().meta({ description: "Share of its CPUs that is in use, as it reports." }),
    memoryFreeMb: z.int().optional().meta({ description: "Memory that is free, as it reports." }),
    preemptible: z.literal(true).optional(),
  })
  .meta({ id: "Machine", description: "A computer that runs instances." });
export type MachineView = z.infer<typeof MachineView>;
export const MachineList = z.object({ machines: z.array(MachineView) }).meta({ id: "MachineList" });
export type MachineList = z.infer<typeof MachineList>;

export const SetPoolMode = z.strictObject({ mode: z.enum(["open", "paused"]) }).meta({ id: "SetPoolMode" });
export const WarmPool = z
  .strictObject({
    fromMs: z.int().min(0).optional().meta({ description: "From when on, since 1970-01-01; now when absent." }),
    lastsMs: z
      .int()
      .min(60_000)
      .max(30 * 86_400_000),
    min: z.int().min(0).max(10_000).default(0),
    spare: z.int().min(0).max(10_000).default(0),
    reason: z.string().max(200).optional(),
  })
  .refine(({ min, spare }) => min > 0 || spare > 0, "expected min, spare or both")
  .meta({
    id: "WarmPool",
    description: "A time in which a pool is to be larger, such as for an event that was announced.",
  });
export type WarmPool = z.input<typeof WarmPool>;

export const PinPool = z
  .strictObject({
    instances: z.int().min(0).max(10_000).nullable().meta({ description: "null to plan by the demand again." }),
  })
  .meta({ id: "PinPool" });
