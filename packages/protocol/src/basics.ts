import { z } from "zod";
import { PORT_MAX } from "./limits.ts";

export const AtMs = z.int().nonnegative().meta({ description: "Milliseconds since 1970-01-01T00:00:00Z." });
export const Revision = z.int().nonnegative().meta({ description: "Goes up by one with each update." });

/** What a game speaks at an address. */
export const Transport = z.enum(["tcp", "udp"]).meta({ id: "Transport", description: "tcp when absent." });

export const Address = z
  .object({ host: z.string(), port: z.int().min(1).max(PORT_MAX), transport: Transport.optional() })
  .meta({ id: "Address", description: "Where an instance is reached." });
export type Address = z.infer<typeof Address>;
