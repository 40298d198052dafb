import type { WebSocket } from "ws";
import { steadyMs } from "../runtime/clock.ts";
import type { SocketLine } from "./socket-line.ts";

interface Hearing {
  readonly message: (line: SocketLine, bytes: Buffer, isBinary: boolean) => void;
  readonly error: (line: SocketLine, error: Error) => void;
  readonly close: (line: SocketLine) => void;
}

/** One set of listeners for all sockets: a set for each would weigh more than the rest of a connection. */
export function listenersFor(lineOf: (socket: WebSocket) => SocketLine | undefined, hear: Hearing) {
  return {
    message(this: WebSocket, bytes: Buffer, isBinary: boolean): void {
      const line = lineOf(this);
      if (line) hear.message(line, bytes, isBinary);
    },
    pong(this: WebSocket): void {
      const line = lineOf(this);
      if (line) line.lastSignMs = steadyMs();
    },
    error(this: WebSocket, error: Error): void {
      const line = lineOf(this);
      if (line) hear.error(line, error);
    },
    close(this: WebSocket): void {
      const line = lineOf(this);
      if (line) hear.close(line);
    },
  };
}
