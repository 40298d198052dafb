import type { WebSocket } from "ws";
import { steadyMs } from "../runtime/clock.ts";
import type { SocketChannel } from "./socket-channel.ts";

interface SocketEvents {
  readonly message: (channel: SocketChannel, bytes: Buffer, isBinary: boolean) => void;
  readonly error: (channel: SocketChannel, error: Error) => void;
  readonly close: (channel: SocketChannel) => void;
}

/** One set of listeners for all sockets: a set for each would weigh more than the rest of a connection. */
export function listenersFor(channelOf: (socket: WebSocket) => SocketChannel | undefined, hear: SocketEvents) {
  return {
    message(this: WebSocket, bytes: Buffer, isBinary: boolean): void {
      const channel = channelOf(this);
      if (channel) hear.message(channel, bytes, isBinary);
    },
    pong(this: WebSocket): void {
      const channel = channelOf(this);
      if (channel) channel.lastSignMs = steadyMs();
    },
    error(this: WebSocket, error: Error): void {
      const channel = channelOf(this);
      if (channel) hear.error(channel, error);
    },
    close(this: WebSocket): void {
      const channel = channelOf(this);
      if (channel) hear.close(channel);
    },
  };
}
