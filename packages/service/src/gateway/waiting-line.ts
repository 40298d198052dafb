import { randomBytes } from "node:crypto";
import { problem, type Waiting } from "@yellow-harbor/protocol";
import type { WaitingLineConfig } from "../config/waiting-line.ts";
import type { Tokens } from "../keys/tokens.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { Connection } from "./connection.ts";

/** So many in front are told as soon as their position is another. */
const IN_FRONT = 100;
/** How often the first one is tried although no place is known to be free: somebody who is away may make way. */
const TRY_MS = 1_000;
/** Everybody is told its position once in so many turns, and so every five seconds. */
const TURNS = 5;
/** The estimate is made from so many of those who were let in last. */
const ADMISSIONS = 32;
const ADMISSIONS_MIN = 3;

interface Place {
  readonly id: string;
  /** Since when it waits, by the harbor's time: that is its place in the line. */
  readonly sinceMs: number;
  /** In which turn it is told. */
  readonly number: number;
  readonly connection: Connection;
  /** Asks the harbor to let it in. `full` is called when that has no place after all. */
  readonly enter: (ended: (isFull: boolean) => void) => void;
  /** Where it was told to be, counted from 0. */
  told: number;
}

export interface LineParts {
  readonly config: WaitingLineConfig;
  readonly tokens: Pick<Tokens, "keyedSum">;
  /** The harbor's time. */
  readonly now: () => number;
  /** Places for players that are free. */
  readonly free: () => number;
  /** Whether somebody who is away may make way now. */
  readonly mayMakeWay: () => boolean;
  readonly flushSoon: () => void;
}

/**
 * Who waits for a place in a full harbor, the one that came first in front. The line is in no journal: each holds a signed token that
 * says since when it waits, so that it has its place again after a lost connection or a restart.
 */
export class WaitingLine {
  readonly #parts: LineParts;
  /** In order. */
  #places: Place[] = [];
  readonly #byConnection = new Map<Connection, Place>();
  #entering = 0;
  #joined = 0;
  readonly #admittedAtMs: number[] = [];
  #timer: NodeJS.Timeout | undefined;
  #ticks = 0;

  constructor(parts: LineParts) {
    this.#parts = parts;
  }

  /** Whether somebody waits, or is being let in. */
  get isBusy(): boolean {
    return this.size > 0;
  }

  get size(): number {
    return this.#places.length + this.#entering;
  }

  /** Since when the first one waits, or undefined. */
  get oldestSinceMs(): number | undefined {
    return this.#places[0]?.sinceMs;
  }

  /** Takes somebody in, at the place that its token says, else at the end. False when the line is full. */
  join(connection: Connection, token: string | undefined, enter: Place["enter"]): boolean {
    if (this.#places.length >= this.#parts.config.max) return false;
    const now = this.#parts.now();
    const known = token === undefined ? undefined : this.#read(token, now);
    // A token is one place: whoever shows it last has it.
    const former = known && this.#places.find(({ id }) => id === known.id)?.connection;
    if (former) {
      this.leave(former);
      former.close(problem("taken-over", "Your place in the line was taken up by another connection."));
    }
    this.#joined += 1;
    const id = known?.id ?? this.#newId();
    const place: Place = { id, sinceMs: known?.sinceMs ?? now, number: this.#joined, connection, enter, told: -1 };
    this.#insert(place);
    this.#byConnection.set(connection, place);
    this.#tell(place, this.#places.indexOf(place));
    this.#timer ??= setInterval(() => this.#tick(), TRY_MS).unref();
    return true;
  }

  /** It is gone; with its token it may have its place again. */
  leave(connection: Connection): void {
    const place = this.#byConnection.get(connection);
    if (place === undefined) return;
    this.#byConnection.delete(connection);
    this.#places = this.#places.filter((one) => one !== place);
    if (this.#places.length === 0) this.#stop();
  }

  /** Lets in as many as there are places for. */
  advance(): void {
    if (this.#places.length === 0) return;
    for (let free = this.#parts.free() - this.#entering; free > 0 && this.#places.length > 0; free--) this.#letIn();
  }

  close(): void {
    this.#places = [];
    this.#byConnection.clear();
    this.#stop();
  }

  #stop(): void {
    clearInterval(this.#timer);
    this.#timer = undefined;
  }

  #tick(): void {
    this.advance();
    this.#ticks += 1;
    for (const [index, place] of this.#places.entries()) {
      // A part of them in each turn, so that nobody else waits for all; in front one hears of each step.
      const isTurn = place.number % TURNS === this.#ticks % TURNS;
      if (isTurn || (index < IN_FRONT && place.told !== index)) this.#tell(place, index);
    }
    this.#parts.flushSoon();
    // The one who is tried is in the line all the while, as others see it.
    if (this.#entering === 0 && this.#places.length > 0 && this.#parts.mayMakeWay()) this.#letIn();
  }

  #letIn(): void {
    const place = this.#places.shift();
    if (place === undefined) return;
    this.#entering += 1;
    place.enter((isFull) => {
      this.#entering -= 1;
      const { connection } = place;
      if (isFull && connection.isOpen) return this.#insert(place);
      this.#byConnection.delete(connection);
      if (!isFull) this.#admittedAtMs.push(steadyMs());
      if (this.#admittedAtMs.length > ADMISSIONS) this.#admittedAtMs.shift();
      if (this.#places.length === 0) this.#stop();
    });
  }

  /** Of two who came in the same millisecond the one that came first is first. */
  #newId(): string {
    return `${String(this.#joined).padStart(9, "0")}${randomBytes(6).toString("base64url")}`;
  }

  /** Nearly always at the end. */
  #insert(place: Place): void {
    let index = this.#places.length;
    while (index > 0 && isBefore(place, this.#places[index - 1])) index -= 1;
    this.#places.splice(index, 0, place);
  }

  #tell(place: Place, index: number): void {
    const { id, sinceMs, connection } = place;
    place.told = index;
    const position = index + 1;
    const estimateMs = this.#estimate(position);
    const token = this.#sign(id, sinceMs, this.#parts.now());
    const waiting: Waiting = {
      frame: "waiting",
      position,
      of: this.#places.length,
      sinceMs,
      ...(estimateMs !== undefined && { estimateMs }),
      token,
    };
    connection.say(waiting);
  }

  /** From the pace at which others were let in lately; undefined while that says too little. */
  #estimate(position: number): number | undefined {
    const [first] = this.#admittedAtMs;
    const many = this.#admittedAtMs.length;
    if (first === undefined || many < ADMISSIONS_MIN) return undefined;
    return Math.round(((steadyMs() - first) / many) * position);
  }

  #sign(id: string, sinceMs: number, seenMs: number): string {
    const text = `${id}.${sinceMs}.${seenMs}`;
    return `${text}.${this.#parts.tokens.keyedSum("waiting", text).subarray(0, 16).toString("base64url")}`;
  }

  /** What a token says that was given out not long ago; one that is older, or none of ours, says nothing. */
  #read(token: string, now: number): Pick<Place, "id" | "sinceMs"> | undefined {
    const [id = "", since = "", seen = ""] = token.split(".");
    const [sinceMs, seenMs] = [Number(since), Number(seen)];
    if (!Number.isSafeInteger(sinceMs) || !Number.isSafeInteger(seenMs)) return undefined;
    if (this.#sign(id, sinceMs, seenMs) !== token) return undefined;
    return now - seenMs <= this.#parts.config.graceMs + TURNS * TRY_MS ? { id, sinceMs } : undefined;
  }
}

const isBefore = (one: Place, other: Place | undefined): boolean =>
  other !== undefined && (one.sinceMs < other.sinceMs || (one.sinceMs === other.sinceMs && one.id < other.id));
