import type { Socket } from "node:net";
import { FRAME_MAX_BYTES, type Problem, problem, readRelayBytes, WIRE_SUBPROTOCOL } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { type WebSocket, WebSocketServer } from "ws";
import type { Config } from "../config/schema.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { ClientEvents } from "./client-channel.ts";
import { decode } from "./decode.ts";
import { listenersFor } from "./listeners.ts";
import { SocketChannel } from "./socket-channel.ts";

// A frame over the limit of the protocol is refused with words; one over this is not even read.
const PAYLOAD_MAX = 262_144;

/** So long clients may take to close when they are told to. */
const CLOSING_MS = 1_000;

export interface PlayerSocketsParts {
  readonly players: Config["players"];
  /** The harbor's time. */
  readonly now: () => number;
  readonly events: ClientEvents;
  readonly log: Pick<Logger, "debug">;
}

/** Its channel is kept with a socket: a table of both would weigh as much again as what it tells. */
const CHANNEL = Symbol("channel");
type WithChannel = WebSocket & { [CHANNEL]?: SocketChannel };

const channelOf = (socket: WebSocket): SocketChannel | undefined => (socket as WithChannel)[CHANNEL];

/** The sockets of players' clients: reads, decodes and bounds what they send, and writes what is said to them. */
export class PlayerSockets {
  readonly #parts: PlayerSocketsParts;
  readonly server: WebSocketServer;
  readonly #gathered = new Set<SocketChannel>();
  readonly #gather = (channel: SocketChannel) => void this.#gathered.add(channel);
  readonly #listeners = listenersFor(channelOf, {
    message: (channel, bytes, isBinary) => this.#receive(channel, bytes, isBinary),
    error: (channel, error) =>
      this.#parts.log.debug({ err: error, connection: channel.number }, "a player's socket failed"),
    close: (channel) => {
      clearTimeout(channel.helloDue);
      this.#gathered.delete(channel);
      this.#parts.events.closed(channel.number);
    },
  });
  readonly #heart: NodeJS.Timeout;
  #isFlushDue = false;

  constructor(parts: PlayerSocketsParts) {
    this.#parts = parts;
    const isCompressed = parts.players.compression !== null;
    this.server = new WebSocketServer({
      noServer: true,
      // Nothing is kept between messages: a compressor of its own for each client would take more memory than all else of it.
      perMessageDeflate: isCompressed && { serverNoContextTakeover: true, clientNoContextTakeover: true },
      // Few bytes may stand for many, so then none are unpacked beyond what is taken.
      maxPayload: isCompressed ? FRAME_MAX_BYTES : PAYLOAD_MAX,
      handleProtocols: (offered) => (offered.has(WIRE_SUBPROTOCOL) ? WIRE_SUBPROTOCOL : false),
    });
    this.#heart = setInterval(() => this.#heartbeat(), parts.players.heartbeatEveryMs);
    this.#heart.unref();
  }

  /** Takes a socket over: the connection of this number. */
  accept(number: number, socket: WebSocket, raw: Socket): SocketChannel {
    const { players } = this.#parts;
    raw.setNoDelay(true);
    const channel = new SocketChannel(number, { socket, raw }, players, this.#gather);
    (socket as WithChannel)[CHANNEL] = channel;
    channel.helloDue = setTimeout(() => {
      this.#close(channel, problem("hello-late", `No hello came within ${players.helloMs / 1000} s of connecting.`));
    }, players.helloMs);
    const { message, pong, error, close } = this.#listeners;
    socket.on("message", message).on("pong", pong).on("error", error).on("close", close);
    return channel;
  }

  /** Writes what has gathered, one write for each socket. */
  flush(): void {
    for (const channel of this.#gathered) if (!channel.flush()) this.#cut(channel, "slow-reader");
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

  #receive(channel: SocketChannel, bytes: Buffer, isBinary: boolean): void {
    // What was told to close may say on for as long as its client keeps it open, and speaks for nobody any more.
    if (!channel.isOpen) return;
    const now = steadyMs();
    channel.lastSignMs = now;
    channel.lastFrameMs = now;
    if (channel.isSilent) {
      channel.isSilent = false;
      this.#parts.events.silent(channel.number, false);
    }
    if (!channel.mayDecode(now)) {
      const detail = `More than ${this.#parts.players.framesPerSecond} frames a second; send fewer.`;
      this.#refuse(channel, problem("too-many-frames", detail));
    } else if (isBinary) {
      this.#relay(channel, bytes);
    } else {
      this.#handle(channel, bytes);
    }
    // What was refused on the spot goes out with this turn; what has to be durable first is flushed when it is spoken.
    this.flushSoon();
  }

  #relay(channel: SocketChannel, bytes: Buffer): void {
    const message = readRelayBytes(bytes);
    if (message) return this.#parts.events.relayed(channel.number, message);
    const detail = "A binary frame is a message to relay: 1, the length of whom it is for, whom it is for, the body.";
    this.#refuse(
      channel,
      problem("frame-unknown", detail, { accepted: ["others", "all", "a player's id", "side:NAME"] }),
    );
  }

  #handle(channel: SocketChannel, bytes: Buffer): void {
    const { events, now } = this.#parts;
    const decoded = decode(bytes);
    switch (decoded.frame) {
      case "protocolError":
        // Nothing can come of a connection whose hello does not fit, so it is told why at once.
        if (decoded.of === "hello" && !channel.hasSaidHello) return this.#close(channel, decoded.problem);
        if (decoded.id !== undefined) channel.begin();
        return this.#refuse(channel, decoded.problem, decoded.id);
      case "hello":
        channel.hasSaidHello = true;
        clearTimeout(channel.helloDue);
        channel.helloDue = undefined;
        return events.hello(channel.number, decoded.hello);
      case "heartbeat": {
        const latency = channel.echo(decoded.heartbeat, now());
        if (latency) events.measured(channel.number, latency);
        return;
      }
      case "request":
        channel.begin();
        return events.request(channel.number, decoded.request, bytes.length);
    }
  }

  #refuse(channel: SocketChannel, refused: Problem, requestId?: number): void {
    this.#parts.events.refused(refused.code);
    channel.refuse(refused, requestId);
  }

  #close(channel: SocketChannel, reason: Problem): void {
    this.#parts.events.refused(reason.code);
    channel.close(reason);
  }

  #cut(channel: SocketChannel, code: Parameters<SocketChannel["cut"]>[0]): void {
    if (channel.cut(code)) this.#parts.events.refused(code);
  }

  #heartbeat(): void {
    const { players, events } = this.#parts;
    const { silenceMs } = players;
    const now = steadyMs();
    for (const socket of this.server.clients) {
      const channel = channelOf(socket);
      if (channel === undefined || channel.isHeld) continue;
      if (now - channel.lastSignMs > silenceMs) this.#cut(channel, "connection-silent");
      else channel.ping();
      const { hasSaidHello, hasSentHeartbeats, isSilent, lastFrameMs } = channel;
      if (!hasSaidHello || !hasSentHeartbeats || isSilent || now - lastFrameMs <= silenceMs) continue;
      // Its computer answers pings and its game says nothing: a window that is not updated, or a program that hangs.
      channel.isSilent = true;
      events.silent(channel.number, true);
    }
  }
}
