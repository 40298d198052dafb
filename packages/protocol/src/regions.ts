import { z } from "zod";
import { ConfigName } from "./ids.ts";

/** Path of the WebSocket at which a service answers echoes. */
export const ECHO_PATH = "/v1/echo";
/** WebSocket subprotocol of an echo. */
export const ECHO_SUBPROTOCOL = "yellow-harbor-echo.1";
/** What every echo begins with, in ASCII: whatever else is sent to such a port stays without an answer. */
export const ECHO_MARK = "yhe1";
/** Largest echo, in bytes. */
export const ECHO_MAX_BYTES = 64;

/** Where an echo is answered. */
export const EchoUrl = z
  .url({ protocol: /^(wss?|udp)$/, error: "expected wss://, ws:// or udp:// with a host and a port" })
  .max(300)
  .refine((url) => !url.startsWith("udp:") || /^udp:\/\/[^/?#]+:\d+\/?$/.test(url), "expected udp://HOST:PORT")
  .meta({
    id: "EchoUrl",
    description: "Where an echo is answered, such as udp://203.0.113.9:7431 or wss://host/v1/echo.",
  });
export type EchoUrl = z.infer<typeof EchoUrl>;

const title = z.string().min(1).max(80).optional().meta({ description: "What people call it." });

/** An address, or the service itself, wherever a client has reached it. */
export const EchoPlace = z.union([z.literal(ECHO_PATH), EchoUrl], {
  error: "expected wss://, ws:// or udp:// with a host and a port, or /v1/echo for the service itself",
});

/** A region, as a configuration has it. */
export const Region = z.strictObject({
  title,
  echo: z.array(EchoPlace).max(4).default([]).meta({
    description:
      "Where players measure their latency to it, the one to be tried first in front; /v1/echo for the service itself.",
  }),
});
export type Region = z.output<typeof Region>;

export const RegionView = z
  .object({
    id: ConfigName,
    title,
    echo: z.array(EchoPlace).meta({
      description: "Where an echo is answered, to be tried in this order; /v1/echo is at the service itself.",
    }),
  })
  .meta({ id: "Region", description: "A region in which matches are played." });
export type RegionView = z.infer<typeof RegionView>;

export const RegionList = z.object({ regions: z.array(RegionView) }).meta({ id: "RegionList" });
export type RegionList = z.infer<typeof RegionList>;
