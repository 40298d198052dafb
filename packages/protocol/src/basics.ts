import { z } from "zod";
import { PORT_MAX } from "./limits.ts";

export const AtMs = z.int().nonnegative().meta({ description: "Milliseconds since 1970-01-01T00:00:00Z." });
export const Revision = z.int().nonnegative().meta({ description: "Goes up by one with each update." });

/** What a game speaks at an address. */
export const Transport = z.enum(["tcp", "udp", "websocket"]).meta({ id: "Transport", description: "tcp when absent." });
export type Transport = z.infer<typeof Transport>;

export const Address = z
  .object({ host: z.string(), port: z.int().min(1).max(PORT_MAX), transport: Transport.optional() })
  .meta({ id: "Address", description: "Where an instance is reached." });
export type Address = z.infer<typeof Address>;

/** A port as people read it, such as 7801, or 7801/udp where it does not speak TCP. */
export const portText = (port: number, transport: Transport = "tcp"): string =>
  transport === "tcp" ? String(port) : `${port}/${transport}`;

/** An address as people read it, such as 198.51.100.7:7801/udp. */
export const addressText = ({ host, port, transport }: Readonly<Address>): string =>
  `${host}:${portText(port, transport)}`;
