import type { IncomingMessage } from "node:http";

/** Where a request comes from. What a proxy saw stands last; what was there before it the client may have made up. */
export function callerOf({ headers, socket }: IncomingMessage, behindProxy: boolean): string {
  const forwarded = behindProxy ? String(headers["x-forwarded-for"] ?? "") : "";
  const address = forwarded.split(",").at(-1)?.trim() || (socket.remoteAddress ?? "unknown");
  return address.replace(/^::ffff:(?=\d+\.\d+\.\d+\.\d+$)/i, "");
}
