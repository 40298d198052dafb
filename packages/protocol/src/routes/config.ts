import { z } from "zod";
import { ConfigApplied, ConfigChanges } from "../config-changes.ts";
import type { HttpRoutes } from "./route.ts";

const config = { tag: "configuration", needs: "administer" } as const;

/** The configuration of a service that runs. */
export const configRoutes = {
  config: {
    ...config,
    method: "GET",
    path: "/v1/config",
    summary: "The configuration that holds now, with every default filled in.",
    reply: z.object({ config: z.record(z.string(), z.unknown()) }).meta({ id: "ConfigInForce" }),
  },
  configChanges: {
    ...config,
    method: "GET",
    path: "/v1/config/changes",
    summary:
      "What the configuration file has that the service does not run with, and whether a restart is needed for it.",
    reply: ConfigChanges,
  },
  applyConfig: {
    ...config,
    method: "POST",
    path: "/v1/config/apply",
    summary: "Read the configuration file again and take what can be taken now. A file with a fault changes nothing.",
    reply: ConfigApplied,
  },
} as const satisfies HttpRoutes;
