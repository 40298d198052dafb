import { STATUS_CODES } from "node:http";
import type { Duplex } from "node:stream";
import { type Problem, problem } from "@yellow-harbor/protocol";
import type { WebSocketServer } from "ws";

/** How long whoever was refused may take to read why and go. */
const LEAVE_MS = 1_000;

/**
 * Answers by hand, where Node or the WebSocket library has no response object to answer with: a problem (RFC 9457) and
 * the end of the connection. The socket never stays for longer than a moment, whatever the other side does.
 */
export function refuseSocket(socket: Duplex, reason: Problem, headers: readonly string[] = []): void {
  if (socket.destroyed || !socket.writable) return void socket.destroy();
  const body = JSON.stringify(reason);
  const head = [
    `HTTP/1.1 ${reason.status} ${STATUS_CODES[reason.status] ?? "Refused"}`,
    "Content-Type: application/problem+json",
    `Content-Length: ${Buffer.byteLength(body)}`,
    "Cache-Control: no-store",
    "Connection: close",
    ...headers,
  ];
  const gone = setTimeout(() => socket.destroy(), LEAVE_MS);
  gone.unref();
  socket.once("close", () => clearTimeout(gone));
  // What it still sends is read and dropped: closing over unread bytes would reset the connection and lose the answer.
  socket.resume();
  socket.end(`${head.join("\r\n")}\r\n\r\n${body}`);
}

/** Handshakes that do not fit (RFC 6455, section 4.2.1) are refused in the words of everything else. */
export function refuseBadHandshakes(sockets: WebSocketServer): void {
  sockets.on("wsClientError", (error, socket) => {
    const detail = `The WebSocket handshake does not fit: ${error.message}.`;
    refuseSocket(socket, problem("upgrade-invalid", detail), ["Sec-WebSocket-Version: 13"]);
  });
}
