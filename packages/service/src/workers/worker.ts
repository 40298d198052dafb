import { type ChildProcess, fork } from "node:child_process";
import type { IncomingMessage } from "node:http";
import type { Socket } from "node:net";
import type { Duplex } from "node:stream";
import { fileURLToPath } from "node:url";
import type { Problem } from "@yellow-harbor/protocol";
import type { ClientChannel, ClientEvents } from "../gateway/client-channel.ts";
import type { Frame } from "../gateway/framing.ts";
import { threadFile } from "../journal/files.ts";
import {
  type HandedOver,
  readFromWorker,
  type ToWorker,
  type WorkerFigures,
  type WorkerStart,
  writeToWorker,
} from "./messages.ts";
import { TurnLines } from "./turn-lines.ts";

interface WorkerParts {
  readonly number: number;
  readonly start: WorkerStart["start"];
  readonly events: ClientEvents;
  readonly ready: () => void;
  /** It has ended, of itself or because it was told to. */
  readonly ended: (worker: Worker, why: string) => void;
}

/** One worker, as the service sees it. */
export class Worker {
  readonly #parts: WorkerParts;
  readonly #child: ChildProcess;
  readonly #link: TurnLines;
  readonly #lines = new Map<number, WorkerChannel>();
  readonly startedAtMs = Date.now();
  /** Its place among the workers, counted from 1: one that takes the place of another has its number. */
  readonly number: number;
  /** What its process uses, as it said last. */
  figures: WorkerFigures | undefined;
  /** Whether it can be handed sockets: one that still loads would have nobody to hear of their errors. */
  isReady = false;
  /** The frame that was added last, and to whom it goes: who else is sent the same one is added to them. */
  #frame: Frame | undefined;
  #to: number[] = [];

  constructor(parts: WorkerParts) {
    this.#parts = parts;
    this.number = parts.number;
    // The fifth is a pair of sockets, for the lines.
    this.#child = fork(fileURLToPath(threadFile("player-worker", import.meta.url)), [], {
      stdio: ["ignore", "inherit", "inherit", "ipc", "pipe"],
      execArgv: [],
    });
    this.#link = new TurnLines({
      stream: this.#child.stdio[4] as unknown as Duplex,
      hear: (lines) => this.#hear(lines),
      overflow: () => this.#child.kill("SIGKILL"),
    });
    this.#child.on("error", () => undefined);
    this.#child.once("exit", (code, signal) => {
      for (const connection of [...this.#lines.keys()]) this.#closed(connection);
      parts.ended(this, signal ?? `exit code ${code}`);
    });
    this.#tell({ start: parts.start });
  }

  get pid(): number {
    return this.#child.pid ?? 0;
  }

  get connections(): number {
    return this.#lines.size;
  }

  get unreadBytes(): number {
    return this.#link.unreadBytes;
  }

  /** Hands a socket over that has asked for a WebSocket. Returns the way to its client. */
  take(connection: number, { request, socket, head }: Asked): ClientChannel {
    // Node would have the server ask the worker for its sockets when it closes. They are counted here, by what is left of each.
    delete (socket as { server?: unknown }).server;
    const early = Buffer.concat([head, stopReading(socket)]);
    const line = new WorkerChannel(this, connection, socket);
    this.#lines.set(connection, line);
    const { method = "GET", url = "", headers } = request;
    this.#tell({ connection, request: { method, url, headers }, head: early.toString("base64") }, socket);
    return line;
  }

  /** Adds a frame for a client: once for all who are sent the same one after each other. */
  frame(connection: number, frame: Frame): void {
    if (this.#frame !== frame) this.#endFrame();
    this.#frame = frame;
    this.#to.push(connection);
  }

  say(message: ToWorker): void {
    this.#endFrame();
    this.#link.add(writeToWorker(message));
  }

  flush(): void {
    this.#endFrame();
    this.#link.flush();
  }

  flushSoon(): void {
    this.#endFrame();
    this.#link.flushSoon();
  }

  /** Tells it to end; what its clients were told before goes out first. */
  end(): void {
    if (this.#child.connected) this.#child.disconnect();
  }

  #endFrame(): void {
    if (this.#frame === undefined) return;
    const { content } = this.#frame;
    this.#link.add(writeToWorker({ to: "frame", connections: this.#to, content }));
    this.#frame = undefined;
    this.#to = [];
  }

  #tell(message: WorkerStart | HandedOver, socket?: Socket): void {
    // One that has just ended takes nothing: its exit says what becomes of its connections.
    this.#child.send(message, socket, {}, () => undefined);
  }

  #hear(lines: readonly string[]): void {
    const { events } = this.#parts;
    for (const line of lines) {
      const heard = readFromWorker(line);
      switch (heard.from) {
        case "ready":
          this.isReady = true;
          this.#parts.ready();
          break;
        case "hello":
          events.hello(heard.connection, heard.hello);
          break;
        case "request":
          events.request(heard.connection, heard.request, heard.bytes);
          break;
        case "measured":
          events.measured(heard.connection, heard.latency);
          break;
        case "figures":
          this.figures = heard.figures;
          break;
        case "relayed":
          events.relayed(heard.connection, heard.message);
          break;
        case "refused":
          events.refused(heard.code);
          break;
        case "silent":
          events.silent(heard.connection, heard.isSilent);
          break;
        case "closed":
          this.#closed(heard.connection);
      }
    }
    // What is answered on the spot.
    this.flush();
  }

  #closed(connection: number): void {
    this.#lines.get(connection)?.closed();
    this.#lines.delete(connection);
    this.#parts.events.closed(connection);
  }
}

/** Somebody who asks for a WebSocket, with what was read behind the request. */
export interface Asked {
  readonly request: IncomingMessage;
  readonly socket: Socket;
  readonly head: Buffer;
}

/**
 * Reads no more of a socket that is handed over, and returns what was read already. Until the worker has taken it this
 * process has it too: what it would read meanwhile, such as a client's hello, nobody would ever see.
 */
function stopReading(socket: Socket): Buffer {
  const read = (socket.read() as Buffer | null) ?? Buffer.alloc(0);
  // Reading it may have had the system read on: only now is that stopped for good.
  (socket as { _handle?: { readStop?: () => void } | null })._handle?.readStop?.();
  return read;
}

/** The way to a client whose socket a worker has. */
class WorkerChannel implements ClientChannel {
  readonly #worker: Worker;
  readonly #connection: number;
  /** What is left of the socket here: by its end it is counted as closed. */
  readonly #socket: Socket;
  /** The connection itself, taken out of the socket by the handing over. */
  readonly #handle: { close?: () => void } | null | undefined;
  isOpen = true;

  constructor(worker: Worker, connection: number, socket: Socket) {
    this.#worker = worker;
    this.#connection = connection;
    this.#socket = socket;
    this.#handle = (socket as { _handle?: { close?: () => void } | null })._handle;
  }

  send(frame: Frame): void {
    if (this.isOpen) this.#worker.frame(this.#connection, frame);
  }

  refuse(problem: Problem, id?: number): void {
    if (this.isOpen) this.#worker.say({ to: "refuse", connection: this.#connection, id, problem });
  }

  close(problem: Problem): void {
    if (!this.isOpen) return;
    this.#worker.say({ to: "close", connection: this.#connection, problem });
    this.isOpen = false;
  }

  closeNormally(): void {
    if (!this.isOpen) return;
    this.#worker.say({ to: "close-normally", connection: this.#connection });
    this.isOpen = false;
  }

  /** Its socket is closed. */
  closed(): void {
    this.isOpen = false;
    this.#socket.destroy();
    // Node closes it once the worker has it; when that ends before, nobody would, and the client would wait for ever.
    this.#handle?.close?.();
  }
}
