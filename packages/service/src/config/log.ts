import { z } from "zod";

/** Parts of the service that log by themselves. */
export const logAreas = ["harbor", "journal", "players", "instances", "operators", "webhooks"] as const;
export type LogArea = (typeof logAreas)[number];

const Level = z.enum(["trace", "debug", "info", "warn", "error", "fatal", "silent"]);

const about: Readonly<Record<LogArea, string>> = {
  harbor: "Level of what the harbor decides and carries out.",
  journal: "Level of the journal and its checks.",
  players: "Level of the connections of players.",
  instances: "Level of instances, machines and agents.",
  operators: "Level of requests of operators and back ends; each of them has a line at debug.",
  webhooks: "Level of what is sent to webhooks.",
};

export const Log = z
  .strictObject({
    level: Level.default("info").meta({ description: "Level of everything whose area has none of its own." }),
    areas: z
      .strictObject(
        Object.fromEntries(
          logAreas.map((area) => [area, Level.optional().meta({ description: about[area] })]),
        ) as Record<LogArea, z.ZodOptional<typeof Level>>,
      )
      .prefault({}),
  })
  .prefault({});
export type LogConfig = z.output<typeof Log>;
