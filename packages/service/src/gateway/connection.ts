import type { Socket } from "node:net";
import type { Latency } from "@yellow-harbor/core";
import { type Heartbeat, type PlayerId, type Problem, problemTable, type ServiceFrame } from "@yellow-harbor/protocol";
import type { WebSocket } from "ws";
import type { AddressQuota } from "../front-door/address-gate.ts";
import { RateLimit } from "../front-door/rate-limit.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { CheckedRequest } from "./decode.ts";
import { frameText } from "./framing.ts";
import { LatencyMeter } from "./latency.ts";
import { Sender } from "./send.ts";

/** Protocol errors that are forgiven at once, and how many more each second; one over that and the connection is closed. */
const PROTOCOL_ERRORS_AT_ONCE = 8;
const PROTOCOL_ERRORS_PER_SECOND = 0.5;

/** For a problem that was not thought to end a connection. */
const FAULT_CLOSE = 4502;

export interface ConnectionLimits {
  readonly framesPerSecond: number;
  readonly unreadBytes: number;
}

/** Requests that are kept until the welcome. */
export const EARLY_MAX = 16;

/** Requests of one connection that may be under way: with so many its socket is not read, until half of them are answered. */
export const UNDER_WAY_MAX = 64;

/** So long a connection that is cut may take to close by itself. */
const CUT_MS = 200;

const NOTHING = Promise.resolve();

export interface ConnectionSource {
  readonly socket: WebSocket;
  readonly raw: Socket;
  readonly from: string;
  readonly quota: AddressQuota;
}

/** One live WebSocket. It knows its player once the hello was accepted. */
export class Connection {
  readonly #socket: WebSocket;
  readonly #sender: Sender;
  readonly #frameLimit: RateLimit;
  /** Made with the first protocol error. */
  #protocolErrorLimit: RateLimit | undefined;
  #isCut = false;
  readonly #gathered: (connection: Connection) => void;
  readonly number: number;
  player: PlayerId | undefined;
  /** Ends a connection on which nobody says hello. */
  helloDue: NodeJS.Timeout | undefined;
  /** A hello is being decided. */
  isGreeting = false;
  /** What was asked before the welcome, to be answered after it; made with the first. */
  #early: CheckedRequest[] | undefined;
  /** Of its address: what all who come from there share. */
  readonly quota: AddressQuota;
  /** Address it comes from, as it is told to nobody but its own player. */
  readonly from: string;
  /** Of its game or of its computer, which answers pings by itself. */
  lastSignMs: number;
  /** Of its game. */
  lastFrameMs: number;
  /** Whether its game sends heartbeats at all: silence says something only of one that does. */
  hasSentHeartbeats = false;
  #underWay = 0;
  /** Whether its socket is not read now: its silence is ours. */
  isHeld = false;
  /** Done when the last request is that something had to be looked up for. */
  looking: Promise<void> = NOTHING;
  /** Whether the room was told that its game is silent. */
  isSilent = false;
  /** Made with the first round trip. */
  latency: LatencyMeter | undefined;

  /** `number` tells the connections of a player apart. */
  constructor(
    number: number,
    { socket, raw, from, quota }: ConnectionSource,
    limits: ConnectionLimits,
    gathered: (connection: Connection) => void,
  ) {
    const now = steadyMs();
    this.number = number;
    this.#socket = socket;
    this.#sender = new Sender(raw, limits.unreadBytes);
    this.#frameLimit = new RateLimit(limits.framesPerSecond, limits.framesPerSecond * 2, now);
    this.#gathered = gathered;
    this.from = from;
    this.quota = quota;
    this.lastSignMs = now;
    this.lastFrameMs = now;
  }

  get isOpen(): boolean {
    return this.#socket.readyState === this.#socket.OPEN;
  }

  mayDecode(now: number): boolean {
    return this.#frameLimit.take(now);
  }

  /** Keeps a request until the welcome. False when there are too many. */
  keepEarly(request: CheckedRequest): boolean {
    this.#early ??= [];
    return this.#early.length < EARLY_MAX && this.#early.push(request) > 0;
  }

  takeEarly(): readonly CheckedRequest[] {
    const early = this.#early ?? [];
    this.#early = undefined;
    return early;
  }

  /** One more request is under way. */
  begin(): void {
    this.#underWay += 1;
    if (this.#underWay < UNDER_WAY_MAX || this.isHeld) return;
    this.isHeld = true;
    this.#socket.pause();
  }

  /** One of them is answered. */
  end(): void {
    this.#underWay -= 1;
    if (!this.isHeld || this.#underWay > UNDER_WAY_MAX / 2) return;
    this.isHeld = false;
    this.lastSignMs = steadyMs();
    this.lastFrameMs = this.lastSignMs;
    this.#socket.resume();
  }

  /** Takes an encoded frame for the next flush. */
  send(frame: Buffer): void {
    if (this.#isCut) return;
    if (this.#sender.add(frame)) this.#gathered(this);
  }

  say(frame: ServiceFrame): void {
    this.send(frameText(JSON.stringify(frame)));
  }

  flush(): void {
    if (!this.#sender.flush()) this.cut("slow-reader");
  }

  /** Answers a protocol error of the client; closes when there are too many of them. */
  refuse(protocolError: Problem, requestId?: number): void {
    const now = steadyMs();
    this.#protocolErrorLimit ??= new RateLimit(PROTOCOL_ERRORS_PER_SECOND, PROTOCOL_ERRORS_AT_ONCE, now);
    if (!this.#protocolErrorLimit.take(now)) return this.close(protocolError);
    this.say(
      requestId === undefined
        ? { frame: "refused", problem: protocolError }
        : { frame: "reply", id: requestId, problem: protocolError },
    );
  }

  /** Echoes a heartbeat with the harbor's time. Returns the player's latency when there is something new to tell of it. */
  echo({ sentMs, roundTripMs }: Heartbeat, atMs: number): Latency | undefined {
    this.hasSentHeartbeats = true;
    this.send(frameText(`{"frame":"echo","sentMs":${sentMs},"atMs":${atMs}}`));
    if (roundTripMs === undefined || this.player === undefined) return undefined;
    this.latency ??= new LatencyMeter();
    return this.latency.take(roundTripMs, steadyMs());
  }

  ping(): void {
    if (this.isOpen) this.#socket.ping();
  }

  /** Says why, then closes with the code of the problem. */
  close(reason: Problem): void {
    if (!this.isOpen) return;
    this.say({ frame: "closing", problem: reason });
    this.#sender.flush();
    this.#socket.close(problemTable[reason.code].close ?? FAULT_CLOSE, reason.code);
  }

  /** Ends a connection that its player has said goodbye on. */
  closeNormally(): void {
    this.#sender.flush();
    this.#socket.close(1000, "goodbye");
  }

  /**
   * Ends a connection that does not read or does not answer: what waits for it is dropped, and it cannot be told more than
   * the code, if it hears that.
   */
  cut(code: "slow-reader" | "connection-silent"): void {
    if (this.#isCut) return;
    this.#isCut = true;
    this.#socket.close(problemTable[code].close ?? FAULT_CLOSE, code);
    setTimeout(() => this.#socket.terminate(), CUT_MS).unref();
  }

  terminate(): void {
    this.#socket.terminate();
  }
}
