import type { Socket } from "node:net";
import { problem, WIRE_SUBPROTOCOL } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { type WebSocket, WebSocketServer } from "ws";
import type { Config } from "../config/schema.ts";
import { steadyMs } from "../runtime/clock.ts";
import { decode } from "./decode.ts";
import type { Hearing } from "./line.ts";
import { listenersFor } from "./listeners.ts";
import { SocketLine } from "./socket-line.ts";

// A frame over the limit of the protocol is refused with words; one over this is not even read.
const PAYLOAD_MAX = 262_144;

/** So long clients may take to close when they are told to. */
const CLOSING_MS = 1_000;

export interface PlayerSocketsParts {
  readonly players: Config["players"];
  /** The harbor's time. */
  readonly now: () => number;
  readonly hearing: Hearing;
  readonly log: Pick<Logger, "debug">;
}

/** Its line is kept with a socket: a table of both would weigh as much again as what it tells. */
const LINE = Symbol("line");
type WithLine = WebSocket & { [LINE]?: SocketLine };

const lineOf = (socket: WebSocket): SocketLine | undefined => (socket as WithLine)[LINE];

/** The sockets of players' clients: reads, decodes and bounds what they send, and writes what is said to them. */
export class PlayerSockets {
  readonly #parts: PlayerSocketsParts;
  readonly server = new WebSocketServer({
    noServer: true,
    perMessageDeflate: false,
    maxPayload: PAYLOAD_MAX,
    handleProtocols: (offered) => (offered.has(WIRE_SUBPROTOCOL) ? WIRE_SUBPROTOCOL : false),
  });
  readonly #gathered = new Set<SocketLine>();
  readonly #gather = (line: SocketLine) => void this.#gathered.add(line);
  readonly #listeners = listenersFor(lineOf, {
    message: (line, bytes, isBinary) => this.#receive(line, bytes, isBinary),
    error: (line, error) => this.#parts.log.debug({ err: error, connection: line.number }, "a player's socket failed"),
    close: (line) => {
      clearTimeout(line.helloDue);
      this.#gathered.delete(line);
      this.#parts.hearing.closed(line.number);
    },
  });
  readonly #heart: NodeJS.Timeout;
  #isFlushDue = false;

  constructor(parts: PlayerSocketsParts) {
    this.#parts = parts;
    this.#heart = setInterval(() => this.#heartbeat(), parts.players.heartbeatEveryMs);
    this.#heart.unref();
  }

  /** Takes a socket over: the connection of this number. */
  accept(number: number, socket: WebSocket, raw: Socket): SocketLine {
    const { players } = this.#parts;
    raw.setNoDelay(true);
    const line = new SocketLine(number, { socket, raw }, players, this.#gather);
    (socket as WithLine)[LINE] = line;
    line.helloDue = setTimeout(() => {
      line.close(problem("hello-late", `No hello came within ${players.helloMs / 1000} s of connecting.`));
    }, players.helloMs);
    const { message, pong, error, close } = this.#listeners;
    socket.on("message", message).on("pong", pong).on("error", error).on("close", close);
    return line;
  }

  /** Writes what has gathered, one write for each socket. */
  flush(): void {
    for (const line of this.#gathered) line.flush();
    this.#gathered.clear();
  }

  /** All that one turn of the event loop brings goes out in one write for each socket. */
  flushSoon(): void {
    if (this.#isFlushDue || this.#gathered.size === 0) return;
    this.#isFlushDue = true;
    setImmediate(() => {
      this.#isFlushDue = false;
      this.flush();
    });
  }

  /** Resolves once all sockets are closed; those whose clients do not close with them are cut. */
  async close(): Promise<void> {
    clearInterval(this.#heart);
    const open = [...this.server.clients];
    const closed = Promise.all(
      open.map((socket) => new Promise<void>((resolve) => socket.once("close", () => resolve()))),
    );
    const patience = setTimeout(() => {
      for (const socket of this.server.clients) socket.terminate();
    }, CLOSING_MS);
    await closed;
    clearTimeout(patience);
    this.server.close();
  }

  #receive(line: SocketLine, bytes: Buffer, isBinary: boolean): void {
    // What was told to close may say on for as long as its client keeps it open, and speaks for nobody any more.
    if (!line.isOpen) return;
    const now = steadyMs();
    line.lastSignMs = now;
    line.lastFrameMs = now;
    if (line.isSilent) {
      line.isSilent = false;
      this.#parts.hearing.silent(line.number, false);
    }
    if (!line.mayDecode(now)) {
      const detail = `More than ${this.#parts.players.framesPerSecond} frames a second; send fewer.`;
      line.refuse(problem("too-many-frames", detail));
    } else if (isBinary) {
      line.refuse(problem("frame-not-json", "Binary frames are not taken; send JSON in text frames."));
    } else {
      this.#handle(line, bytes);
    }
    // What was refused on the spot goes out with this turn; what has to be durable first is flushed when it is spoken.
    this.flushSoon();
  }

  #handle(line: SocketLine, bytes: Buffer): void {
    const { hearing, now } = this.#parts;
    const decoded = decode(bytes);
    switch (decoded.frame) {
      case "protocolError":
        // Nothing can come of a connection whose hello does not fit, so it is told why at once.
        if (decoded.of === "hello" && !line.hasSaidHello) return line.close(decoded.problem);
        if (decoded.id !== undefined) line.begin();
        return line.refuse(decoded.problem, decoded.id);
      case "hello":
        line.hasSaidHello = true;
        clearTimeout(line.helloDue);
        line.helloDue = undefined;
        return hearing.hello(line.number, decoded.hello);
      case "heartbeat": {
        const latency = line.echo(decoded.heartbeat, now());
        if (latency) hearing.measured(line.number, latency);
        return;
      }
      case "request":
        line.begin();
        return hearing.request(line.number, decoded.request, bytes.length);
    }
  }

  #heartbeat(): void {
    const { players, hearing } = this.#parts;
    const { silenceMs } = players;
    const now = steadyMs();
    for (const socket of this.server.clients) {
      const line = lineOf(socket);
      if (line === undefined || line.isHeld) continue;
      if (now - line.lastSignMs > silenceMs) line.cut("connection-silent");
      else line.ping();
      const { hasSaidHello, hasSentHeartbeats, isSilent, lastFrameMs } = line;
      if (!hasSaidHello || !hasSentHeartbeats || isSilent || now - lastFrameMs <= silenceMs) continue;
      // Its computer answers pings and its game says nothing: a window that is not updated, or a program that hangs.
      line.isSilent = true;
      hearing.silent(line.number, true);
    }
  }
}
