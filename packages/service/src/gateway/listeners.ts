import type { WebSocket } from "ws";
import { steadyMs } from "../runtime/clock.ts";
import type { Connection } from "./connection.ts";

interface Hearing {
  readonly message: (connection: Connection, bytes: Buffer, isBinary: boolean) => void;
  readonly error: (connection: Connection, error: Error) => void;
  readonly close: (connection: Connection, socket: WebSocket) => void;
}

/** One set of listeners for all sockets: a set for each would weigh more than the rest of a connection. */
export function listenersFor(connectionOf: (socket: WebSocket) => Connection | undefined, hear: Hearing) {
  return {
    message(this: WebSocket, bytes: Buffer, isBinary: boolean): void {
      const connection = connectionOf(this);
      if (connection) hear.message(connection, bytes, isBinary);
    },
    pong(this: WebSocket): void {
      const connection = connectionOf(this);
      if (connection) connection.lastSignMs = steadyMs();
    },
    error(this: WebSocket, error: Error): void {
      const connection = connectionOf(this);
      if (connection) hear.error(connection, error);
    },
    close(this: WebSocket): void {
      const connection = connectionOf(this);
      if (connection) hear.close(connection, this);
    },
  };
}
