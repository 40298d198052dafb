import type { IncomingMessage } from "node:http";
import { Socket } from "node:net";
import pino from "pino";
import { refuseBadHandshakes } from "../front-door/refuse-socket.ts";
import type { ClientEvents } from "../gateway/client-channel.ts";
import { Frame } from "../gateway/framing.ts";
import { PlayerSockets } from "../gateway/player-sockets.ts";
import type { SocketChannel } from "../gateway/socket-channel.ts";
import { ProcessFigures } from "../process-figures.ts";
import { steadyMs } from "../runtime/clock.ts";
import {
  type FromWorker,
  type HandedOver,
  readToWorker,
  type ToWorker,
  type WorkerStart,
  writeFromWorker,
} from "./messages.ts";
import { TurnLines } from "./turn-lines.ts";

const FIGURES_EVERY_MS = 2_000;

/** File descriptor of the lines to the service. */
const LINES_FD = 4;

/*
 * A worker: has sockets of players' clients, and does what costs by connection and by frame. What they ask for is decided by
 * the service that has started it; without that it ends.
 */

// The service tells its workers when to end; a signal to all of the group is its to hear.
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => undefined);
process.on("disconnect", () => process.exit(0));
process.on("message", (message: WorkerStart | HandedOver, socket?: Socket) => {
  if ("start" in message) worker = new Worker(message.start);
  else if (socket) worker?.take(message, socket);
});
let worker: Worker | undefined;

class Worker {
  readonly #sockets: PlayerSockets;
  readonly #lines = new Map<number, SocketChannel>();
  readonly #link: TurnLines;
  #clock = { atMs: Date.now(), steadyMs: steadyMs() };

  constructor({ players, logLevel }: WorkerStart["start"]) {
    const log = pino({ level: logLevel, base: { worker: process.pid } });
    this.#link = new TurnLines({
      stream: new Socket({ fd: LINES_FD, readable: true, writable: true }),
      hear: (lines) => {
        for (const line of lines) this.#hear(readToWorker(line));
        this.#sockets.flush();
      },
      overflow: () => {
        log.error("the service does not read what its worker says");
        process.exit(1);
      },
    });
    const events: ClientEvents = {
      hello: (connection, hello) => this.#say({ from: "hello", connection, hello }),
      request: (connection, request, bytes) => this.#say({ from: "request", connection, bytes, request }),
      relayed: (connection, message) => this.#say({ from: "relayed", connection, message }),
      measured: (connection, latency) => this.#say({ from: "measured", connection, latency }),
      refused: (code) => this.#say({ from: "refused", code }),
      silent: (connection, isSilent) => this.#say({ from: "silent", connection, isSilent }),
      closed: (connection) => {
        this.#lines.delete(connection);
        this.#say({ from: "closed", connection });
      },
    };
    const now = () => Math.floor(this.#clock.atMs + steadyMs() - this.#clock.steadyMs);
    this.#sockets = new PlayerSockets({ players, now, events, log });
    refuseBadHandshakes(this.#sockets.server);
    this.#say({ from: "ready" });
    const figures = new ProcessFigures();
    setInterval(() => this.#sayFigures(figures), FIGURES_EVERY_MS).unref();
  }

  #sayFigures(own: ProcessFigures): void {
    const { memoryBytes, loopDelayMs } = own.take();
    const { user, system } = process.cpuUsage();
    this.#say({ from: "figures", figures: { memoryBytes, loopDelayMs, cpuSeconds: (user + system) / 1e6 } });
  }

  /** Takes a socket over, and answers its handshake. */
  take({ connection, request, head }: HandedOver, socket: Socket): void {
    const gone = () => {
      if (!this.#lines.has(connection)) this.#say({ from: "closed", connection });
    };
    socket.on("error", () => socket.destroy()).once("close", gone);
    const asked = request as unknown as IncomingMessage;
    this.#sockets.server.handleUpgrade(asked, socket, Buffer.from(head, "base64"), (webSocket) => {
      socket.off("close", gone);
      this.#lines.set(connection, this.#sockets.accept(connection, webSocket, socket));
    });
  }

  #say(message: FromWorker): void {
    this.#link.add(writeFromWorker(message));
    this.#link.flushSoon();
  }

  #hear(message: ToWorker): void {
    switch (message.to) {
      case "frame": {
        const frame = new Frame(message.content);
        for (const connection of message.connections) this.#lines.get(connection)?.send(frame);
        return;
      }
      case "refuse":
        return this.#lines.get(message.connection)?.refuse(message.problem, message.id);
      case "close":
        return this.#lines.get(message.connection)?.close(message.problem);
      case "close-normally":
        return this.#lines.get(message.connection)?.closeNormally();
      case "clock":
        this.#clock = { atMs: message.atMs, steadyMs: steadyMs() };
    }
  }
}
