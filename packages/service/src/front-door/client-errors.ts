import type { Socket } from "node:net";
import { type Problem, problem } from "@yellow-harbor/protocol";
import { refuseSocket } from "./refuse-socket.ts";

/** Bytes of a request line and its headers (RFC 9112, section 3.2, leaves the number to the server). */
export const HEADERS_MAX_BYTES = 16_384;
/** From the first byte of a request to the last of its body. */
export const REQUEST_MAX_MS = 10_000;
/** How often requests that have not ended are looked through. */
export const REQUEST_LOOK_MS = 2_000;

/** What Node's parser says of bytes that are no request, in the words of the table. */
export function malformed({ code, message }: NodeJS.ErrnoException): Problem {
  switch (code) {
    case "HPE_HEADER_OVERFLOW":
      return problem("headers-too-large", `The request line and headers have more than ${HEADERS_MAX_BYTES} bytes.`);
    case "ERR_HTTP_REQUEST_TIMEOUT":
      return problem("request-late", `The request was not complete within ${REQUEST_MAX_MS / 1000} s; send it again.`);
    case "HPE_INVALID_METHOD":
      return problem(
        "method-unknown",
        "The request's method is none of HTTP; the API takes GET, POST, PUT and DELETE.",
      );
    default: {
      const reason = message.replace(/^Parse Error: /, "");
      return problem("http-malformed", `What was sent is no HTTP request: ${reason}.`);
    }
  }
}

/** Answers whoever sent something that never became a request. */
export function onClientError(error: NodeJS.ErrnoException, socket: Socket): void {
  socket.on("error", () => socket.destroy());
  if (error.code === "ECONNRESET" || !socket.writable) return void socket.destroy();
  refuseSocket(socket, malformed(error));
}
