import { z } from "zod";
import { ConfigName } from "./ids.ts";

export const ConfigChange = z
  .object({
    path: z.string().meta({ description: "Such as pools.sluice.max." }),
    before: z.unknown().optional().meta({ description: "Value that holds now; absent for none." }),
    after: z.unknown().optional().meta({ description: "Value that the file has; absent for none." }),
    takes: z.enum(["at-once", "restart"]).meta({
      description: "Whether the service can take the value while it runs, or when it is started the next time.",
    }),
  })
  .meta({ id: "ConfigChange", description: "A value of the configuration that the file and the service differ in." });
export type ConfigChange = z.infer<typeof ConfigChange>;

export const ConfigChanges = z
  .object({
    file: z.string().meta({ description: "The file that was read, on the service's computer." }),
    changes: z.array(ConfigChange),
    needsRestart: z.string().optional().meta({
      description: "Why what can be taken at once cannot be taken without the rest: then nothing is.",
    }),
  })
  .meta({ id: "ConfigChanges" });
export type ConfigChanges = z.infer<typeof ConfigChanges>;

export const ConfigApplied = z
  .object({
    file: z.string(),
    changes: z.array(ConfigChange).meta({ description: "Those with at-once hold from now on, the others do not yet." }),
    queues: z.object({
      changed: z.array(ConfigName).meta({ description: "Queues that are new, or have other rules now." }),
      gone: z
        .array(ConfigName)
        .meta({ description: "Queues that are not there any more; who searched in them is told." }),
    }),
  })
  .meta({ id: "ConfigApplied" });
export type ConfigApplied = z.infer<typeof ConfigApplied>;
