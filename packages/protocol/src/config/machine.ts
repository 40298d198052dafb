import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { type DeepReadonly, Ms, orNull } from "./parts.ts";

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
const FleetCommand = z.array(z.string().min(1).max(4_096)).min(1).max(64);

/** Machines that join by themselves, all alike: as many as there are. */
export const MachineGroup = Machine.omit({ driver: true, host: true }).extend({
  limit: z.int().min(1).max(2_000).default(100).meta({ description: "Maximum of machines in it." }),
  fleet: orNull(
    z
      .strictObject({
        start: FleetCommand.meta({
          description:
            "Command that orders a machine: a program and its arguments. Its environment says which (YH_MACHINE_NAME, _GROUP, _REGION), and what its agent needs (YH_AGENT_TOKEN, YH_URL).",
        }),
        stop: FleetCommand.meta({ description: "Command that gives one back, with the same environment." }),
        min: z.int().min(0).max(2_000).default(0).meta({ description: "Machines to have at least." }),
        ordersAtOnce: z.int().min(1).max(100).default(5).meta({ description: "Maximum of machines on order." }),
        bootMs: Ms(300_000, "From the order until its agent has joined; after that it is given up."),
        idleMs: Ms(600_000, "A machine on which nothing has run for so long is given back."),
      })
      .meta({ description: "Machines are ordered when the plans of its pools have no room, and given back." }),
  ),
  forgetMs: Ms(600_000, "After so long away, with nothing left that runs, a machine of it is forgotten.", {
    min: 1_000,
  }),
});
export type MachineGroupRules = DeepReadonly<z.output<typeof MachineGroup>>;

export type MachineRules = DeepReadonly<z.output<typeof Machine>>;
