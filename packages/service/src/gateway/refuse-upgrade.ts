import { STATUS_CODES } from "node:http";
import type { Duplex } from "node:stream";
import type { Problem } from "@yellow-harbor/protocol";

/** Tells over HTTP why a WebSocket is not opened (RFC 6455, section 4.2.2). */
export function refuseUpgrade(socket: Duplex, reason: Problem): void {
  const body = JSON.stringify(reason);
  const head = [
    `HTTP/1.1 ${reason.status} ${STATUS_CODES[reason.status]}`,
    "Content-Type: application/problem+json",
    `Content-Length: ${Buffer.byteLength(body)}`,
    "Connection: close",
  ];
  socket.on("error", () => socket.destroy());
  socket.end(`${head.join("\r\n")}\r\n\r\n${body}`);
}
