import type { Socket } from "node:net";
import type { Latency } from "@yellow-harbor/core";
import { type Heartbeat, type Problem, problemTable, type ServiceFrame } from "@yellow-harbor/protocol";
import type { WebSocket } from "ws";
import { RateLimit } from "../front-door/rate-limit.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { ClientChannel } from "./client-channel.ts";
import { Frame, frameText } from "./framing.ts";
import { LatencyMeter } from "./latency.ts";
import { Sender } from "./send.ts";

/** Protocol errors that are forgiven at once, and how many more each second; one over that and the connection is closed. */
const PROTOCOL_ERRORS_AT_ONCE = 8;
const PROTOCOL_ERRORS_PER_SECOND = 0.5;

/** For a problem that was not thought to end a connection. */
const FAULT_CLOSE = 4502;

/** So long a connection that is cut may take to close by itself. */
const CUT_MS = 200;

/** Requests of one connection that may be under way: with so many its socket is not read, until half of them are answered. */
const UNDER_WAY_MAX = 64;

/** What every reply begins with: it is the first member of its frame. */
const REPLY = '{"frame":"reply"';

export interface ChannelLimits {
  readonly compression: { readonly minBytes: number } | null;
  readonly framesPerSecond: number;
  readonly unreadBytes: number;
}

/** One live WebSocket of this process. */
export class SocketChannel implements ClientChannel {
  readonly #socket: WebSocket;
  readonly #sender: Sender;
  readonly #frameLimit: RateLimit;
  /** From so many bytes on its frames are compressed; undefined where its client does not take that. */
  readonly #compressFrom: number | undefined;
  /** Made with the first protocol error. */
  #protocolErrorLimit: RateLimit | undefined;
  #isCut = false;
  readonly #gathered: (channel: SocketChannel) => void;
  readonly number: number;
  /** Ends a connection on which nobody says hello. */
  helloDue: NodeJS.Timeout | undefined;
  /** Whether a hello that fits has come. */
  hasSaidHello = false;
  #underWay = 0;
  /** Whether its socket is not read now: its silence is ours. */
  isHeld = false;
  /** Of its game or of its computer, which answers pings by itself. */
  lastSignMs: number;
  /** Of its game. */
  lastFrameMs: number;
  /** Whether its game sends heartbeats at all: silence says something only of one that does. */
  hasSentHeartbeats = false;
  isSilent = false;
  /** Made with the first round trip. */
  #latency: LatencyMeter | undefined;

  /** `gathered` hears of a channel that has something to {@link flush}. */
  constructor(
    number: number,
    { socket, raw }: { readonly socket: WebSocket; readonly raw: Socket },
    limits: ChannelLimits,
    gathered: (channel: SocketChannel) => void,
  ) {
    const now = steadyMs();
    this.number = number;
    this.#socket = socket;
    this.#sender = new Sender(raw, limits.unreadBytes);
    this.#compressFrom = socket.extensions.includes("permessage-deflate") ? limits.compression?.minBytes : undefined;
    this.#frameLimit = new RateLimit(limits.framesPerSecond, limits.framesPerSecond * 2, now);
    this.#gathered = gathered;
    this.lastSignMs = now;
    this.lastFrameMs = now;
  }

  get isOpen(): boolean {
    return this.#socket.readyState === this.#socket.OPEN;
  }

  mayDecode(now: number): boolean {
    return this.#frameLimit.take(now);
  }

  /** One more request is under way, until a reply is sent. */
  begin(): void {
    this.#underWay += 1;
    if (this.#underWay >= UNDER_WAY_MAX && !this.isHeld) this.#hold(true);
  }

  send(frame: Frame): void {
    const { content } = frame;
    if (typeof content === "string" && content.startsWith(REPLY)) this.#end();
    this.#add(this.#compressFrom === undefined ? frame.bytes : frame.compressed(this.#compressFrom));
  }

  /** Writes what has gathered. False when its client has left too much unread. */
  flush(): boolean {
    return this.#sender.flush();
  }

  refuse(protocolError: Problem, requestId?: number): void {
    const now = steadyMs();
    this.#protocolErrorLimit ??= new RateLimit(PROTOCOL_ERRORS_PER_SECOND, PROTOCOL_ERRORS_AT_ONCE, now);
    if (!this.#protocolErrorLimit.take(now)) return this.close(protocolError);
    this.#say(
      requestId === undefined
        ? { frame: "refused", problem: protocolError }
        : { frame: "reply", id: requestId, problem: protocolError },
    );
  }

  /** Echoes a heartbeat with the harbor's time. Returns the latency when there is something new to tell of it. */
  echo({ sentMs, roundTripMs }: Heartbeat, atMs: number): Latency | undefined {
    this.hasSentHeartbeats = true;
    this.#add(frameText(`{"frame":"echo","sentMs":${sentMs},"atMs":${atMs}}`));
    if (roundTripMs === undefined || !this.hasSaidHello) return undefined;
    this.#latency ??= new LatencyMeter();
    return this.#latency.take(roundTripMs, steadyMs());
  }

  ping(): void {
    if (this.isOpen) this.#socket.ping();
  }

  close(reason: Problem): void {
    if (!this.isOpen) return;
    this.#say({ frame: "closing", problem: reason });
    this.#sender.flush();
    // A socket that is not read would not hear that its client closes too.
    if (this.isHeld) this.#hold(false);
    this.#socket.close(problemTable[reason.code].close ?? FAULT_CLOSE, reason.code);
  }

  closeNormally(): void {
    this.#sender.flush();
    this.#socket.close(1000, "goodbye");
  }

  /**
   * Ends a connection that does not read or does not answer: what waits for it is dropped, and it cannot be told more than
   * the code, if it hears that. False when it was cut already.
   */
  cut(code: "slow-reader" | "connection-silent"): boolean {
    if (this.#isCut) return false;
    this.#isCut = true;
    this.#socket.close(problemTable[code].close ?? FAULT_CLOSE, code);
    setTimeout(() => this.#socket.terminate(), CUT_MS).unref();
    return true;
  }

  #end(): void {
    this.#underWay -= 1;
    if (this.isHeld && this.#underWay <= UNDER_WAY_MAX / 2) this.#hold(false);
  }

  #hold(isHeld: boolean): void {
    this.isHeld = isHeld;
    if (isHeld) return this.#socket.pause();
    this.lastSignMs = steadyMs();
    this.lastFrameMs = this.lastSignMs;
    this.#socket.resume();
  }

  /** Takes an encoded frame for the next flush. */
  #add(frame: Buffer): void {
    if (this.#isCut) return;
    if (this.#sender.add(frame)) this.#gathered(this);
  }

  #say(frame: ServiceFrame): void {
    this.send(new Frame(JSON.stringify(frame)));
  }
}
