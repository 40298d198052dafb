import {
  type Entrant,
  entrantOf,
  type Match,
  MatchPool,
  type MatchQuality,
  type QueueRules,
  qualityOf,
  sidesOf,
  type WaitingRow,
} from "@yellow-harbor/core";
import { type Problem, type ProblemCode, problem } from "@yellow-harbor/protocol";
import { Conditions, Draws, Places } from "./conditions.ts";
import type { TicketLine } from "./traffic.ts";

export interface MatchLine {
  /** Seconds. */
  readonly at: number;
  readonly match: string;
  readonly region: string | null;
  readonly tickets: readonly string[];
  readonly sides: readonly (readonly string[])[];
  readonly quality: MatchQuality;
}

/** What became of a ticket that was in no match. */
export interface EndingLine {
  readonly ticket: string;
  readonly at: number;
  readonly outcome: "expired" | "cancelled" | "waiting" | "refused" | "declined";
  /** Why it was refused. */
  readonly code?: ProblemCode;
  readonly detail?: string;
}

export interface Played {
  readonly matches: readonly MatchLine[];
  readonly endings: readonly EndingLine[];
  /** Seconds each matched ticket has waited. */
  readonly waits: readonly number[];
  /** How many waited, at the end of every pass: seconds and tickets. */
  readonly depths: readonly (readonly [atS: number, tickets: number])[];
  readonly passes: number;
  /** Passes in which somebody waited and there was nowhere to play. */
  readonly fullPasses: number;
  /** Matches that were not confirmed by all. */
  readonly undone: number;
  /** Matches to which somebody did not come. */
  readonly short: number;
}

interface Waiter {
  readonly line: TicketLine;
  readonly row: WaitingRow;
  readonly expiresMs: number;
  readonly cancelMs: number;
}

/** A match that is being confirmed. */
interface Forming {
  readonly match: Match;
  readonly atMs: number;
  readonly knownMs: number;
  readonly waiters: readonly Waiter[];
  readonly letGo: ReadonlySet<number>;
}

export interface PlayOptions {
  readonly untilS?: number;
  readonly conditions?: Conditions;
  /** Of what players do once they are matched. */
  readonly seed?: number;
}

/**
 * Plays traffic through a queue in virtual time, by the very pass that the service makes. It goes on after the last
 * ticket until nothing can change any more, or until `untilS`.
 */
export function play(queue: QueueRules, tickets: readonly TicketLine[], options: PlayOptions = {}): Played {
  return new Play(queue, tickets, options).run();
}

const msOf = (seconds: number) => Math.round(seconds * 1_000);

class Play {
  readonly #queue: QueueRules;
  readonly #tickets: readonly TicketLine[];
  readonly #untilMs: number;
  readonly #pool: MatchPool;
  readonly #waiting = new Map<string, Waiter>();
  readonly #searching = new Map<string, string>();
  readonly #matches: MatchLine[] = [];
  readonly #endings: EndingLine[] = [];
  readonly #waits: number[] = [];
  readonly #depths: [number, number][] = [];
  /** After so long a wait nothing that a ticket accepts grows any more. */
  readonly #flatAfterMs: number;
  #next = 0;
  #passes = 0;
  #lastEntryMs = -Infinity;
  #isStill = true;
  readonly #draws: Draws;
  /** Whether players answer as the conditions say; without any all accept at once. */
  readonly #asks: boolean;
  readonly #places: Places | undefined;
  #forming: Forming[] = [];
  #fullPasses = 0;
  #undone = 0;
  #short = 0;

  constructor(queue: QueueRules, tickets: readonly TicketLine[], { untilS, conditions, seed = 1 }: PlayOptions) {
    this.#queue = queue;
    this.#tickets = tickets;
    this.#untilMs = (untilS ?? Number.POSITIVE_INFINITY) * 1_000;
    this.#draws = new Draws(conditions ?? Conditions.parse({}), seed);
    this.#asks = conditions !== undefined;
    const regions = queue.match.latency?.regions ?? [];
    this.#places = conditions?.capacity && new Places(conditions.capacity, regions);
    this.#pool = new MatchPool(queue.match);
    const { closeness, latency, fewer, choose } = queue.match;
    const allowance = choose.by === "price" ? [choose.allowance] : [];
    const curves = [...closeness.map(({ gap }) => gap), ...(latency ? [latency.ceilingMs] : []), ...allowance];
    const ends = [...curves.map((curve) => (curve.at(-1)?.[0] ?? 0) * 1_000), ...fewer.map(({ afterMs }) => afterMs)];
    this.#flatAfterMs = Math.max(0, ...ends) + queue.passEveryMs;
  }

  run(): Played {
    let nowMs = 0;
    for (let passMs = this.#nextPassMs(-1); passMs !== undefined; passMs = this.#nextPassMs(nowMs)) {
      nowMs = Math.min(passMs, this.#untilMs);
      this.#enterUpTo(nowMs);
      this.#settleUpTo(nowMs);
      for (const waiter of [...this.#waiting.values()]) this.#end(waiter, nowMs);
      if (passMs > this.#untilMs) break;
      if (this.#waiting.size > 0) this.#pass(nowMs);
    }
    for (const { line } of this.#waiting.values()) {
      this.#endings.push({ ticket: line.ticket, at: nowMs / 1_000, outcome: "waiting" });
    }
    return {
      matches: this.#matches.sort((a, b) => a.at - b.at),
      endings: this.#endings.sort((a, b) => a.at - b.at),
      waits: this.#waits,
      depths: this.#depths,
      passes: this.#passes,
      fullPasses: this.#fullPasses,
      undone: this.#undone,
      short: this.#short,
    };
  }

  /** The next pass that could find something or has somebody to let go. */
  #nextPassMs(nowMs: number): number | undefined {
    const every = this.#queue.passEveryMs;
    const soonest = (Math.floor(nowMs / every) + 1) * every;
    const isGrowing = !this.#isStill || soonest <= this.#lastEntryMs + this.#flatAfterMs;
    if (this.#forming.length > 0) return soonest;
    if (this.#waiting.size > 0 && (isGrowing || this.#places?.isHeld)) return soonest;
    const ticket = this.#tickets[this.#next];
    let next = ticket ? msOf(ticket.at) : Infinity;
    for (const { expiresMs, cancelMs } of this.#waiting.values()) next = Math.min(next, expiresMs, cancelMs);
    return next === Infinity ? undefined : Math.max(soonest, Math.ceil(next / every) * every);
  }

  #enterUpTo(nowMs: number): void {
    for (let line = this.#tickets[this.#next]; line && msOf(line.at) <= nowMs; line = this.#tickets[this.#next]) {
      this.#next += 1;
      // Who has given up by now may search again.
      for (const { id } of line.players) {
        const waiter = this.#waiting.get(this.#searching.get(id) ?? "");
        if (waiter) this.#end(waiter, msOf(line.at));
      }
      this.#entrantOf(line);
    }
  }

  #entrantOf(line: TicketLine): void {
    const sinceMs = msOf(line.at);
    const { ticket, players, attributes, needs } = line;
    const elsewhere = players.find(({ id }) => this.#searching.has(id));
    const entered = elsewhere
      ? { refused: alreadySearching(elsewhere.id, this.#searching.get(elsewhere.id) ?? "") }
      : entrantOf(this.#queue.match, { ticket, sinceMs, players, attributes, needs });
    if ("refused" in entered) {
      const { code, detail } = entered.refused;
      this.#endings.push({ ticket, at: line.at, outcome: "refused", code, detail });
      return;
    }
    const expiresMs = this.#queue.searchMs === null ? Infinity : sinceMs + this.#queue.searchMs;
    const cancelMs = line.cancelAt === undefined ? Infinity : msOf(line.cancelAt);
    this.#waiting.set(ticket, { line, row: this.#pool.add(entered.entrant), expiresMs, cancelMs });
    for (const { id } of players) this.#searching.set(id, ticket);
    this.#lastEntryMs = sinceMs;
    this.#isStill = false;
  }

  #end(waiter: Waiter, nowMs: number): void {
    const { line, expiresMs, cancelMs, row } = waiter;
    const endMs = Math.min(expiresMs, cancelMs);
    if (endMs > nowMs) return;
    this.#pool.remove(row);
    this.#leave(line);
    const outcome = cancelMs <= expiresMs ? "cancelled" : "expired";
    this.#endings.push({ ticket: line.ticket, at: endMs / 1_000, outcome });
  }

  #leave({ ticket, players }: TicketLine): void {
    this.#waiting.delete(ticket);
    for (const { id } of players) this.#searching.delete(id);
  }

  #pass(nowMs: number): void {
    const left = this.#places?.left(nowMs);
    this.#passes += 1;
    if (left?.max === 0) {
      this.#fullPasses += 1;
      this.#depths.push([nowMs / 1_000, this.#waiting.size]);
      return;
    }
    const { matches } = this.#pool.pass(nowMs, left);
    // One that was cut by the places that are left is not gone on with: whoever is oldest then has the first choice again.
    if (left) this.#pool.leavePass();
    this.#isStill = matches.length === 0;
    for (const match of matches) this.#make(match, nowMs);
    this.#depths.push([nowMs / 1_000, this.#waiting.size]);
  }

  #make(match: Match, nowMs: number): void {
    const waiters = match.entrants.flatMap(({ party }) => this.#waiting.get(party.ticket) ?? []);
    for (const { line } of waiters) this.#waiting.delete(line.ticket);
    const players = match.sideOf.length;
    const { afterMs, letGo } = this.#asks ? this.#draws.answers(this.#queue, players) : NO_QUESTION;
    const forming = { match, atMs: nowMs, knownMs: nowMs + afterMs, waiters, letGo };
    const playMs = this.#places && this.#draws.playMs();
    // A match that is being confirmed holds its place already; one that comes to nothing gives it back.
    if (this.#places && playMs !== undefined) {
      this.#places.hold(match, letGo.size > 0 ? forming.knownMs : forming.knownMs + playMs);
    }
    if (afterMs === 0 && letGo.size === 0) this.#stand(forming);
    else this.#forming.push(forming);
  }

  /** What has become of the matches that were being confirmed. */
  #settleUpTo(nowMs: number): void {
    const known = this.#forming.filter(({ knownMs }) => knownMs <= nowMs);
    if (known.length === 0) return;
    this.#forming = this.#forming.filter(({ knownMs }) => knownMs > nowMs);
    for (const forming of known.sort((a, b) => a.knownMs - b.knownMs)) {
      if (forming.letGo.size === 0) this.#stand(forming);
      else this.#undo(forming);
    }
    this.#isStill = false;
  }

  #stand({ match, atMs, waiters }: Forming): void {
    const tickets = match.entrants.map(({ party }: Entrant) => party.ticket);
    if (this.#asks && this.#draws.isShort(match.sideOf.length)) this.#short += 1;
    this.#matches.push({
      at: atMs / 1_000,
      match: `m${this.#matches.length + 1}`,
      region: match.region,
      tickets,
      sides: sidesOf(match),
      quality: qualityOf(this.#queue.match, match, atMs),
    });
    for (const { line, row } of waiters) {
      this.#leave(line);
      this.#waits.push((atMs - row.sinceMs) / 1_000);
    }
  }

  /** Whoever let it go stops searching with all of its party; the others search on with the wait they had. */
  #undo({ match, atMs, knownMs, waiters, letGo }: Forming): void {
    this.#undone += 1;
    let player = 0;
    for (const [n, waiter] of waiters.entries()) {
      const { players } = match.entrants[n] as Entrant;
      const isIn = players.every((_, at) => !letGo.has(player + at));
      player += players.length;
      if (!isIn) {
        this.#leave(waiter.line);
        this.#endings.push({ ticket: waiter.line.ticket, at: knownMs / 1_000, outcome: "declined" });
        continue;
      }
      const row = this.#pool.add(match.entrants[n] as Entrant);
      const expiresMs = waiter.expiresMs + (knownMs - atMs);
      this.#waiting.set(waiter.line.ticket, { ...waiter, row, expiresMs });
    }
  }
}

const NO_QUESTION = { afterMs: 0, letGo: new Set<number>() };

const alreadySearching = (player: string, ticket: string): Problem =>
  problem("already-searching", `Player ${player} is searching already, with ticket ${ticket}; cancel that one first.`);

/** The lines that are written down: the matches in their order, then the tickets that were in none. */
export function linesOf({ matches, endings }: Played): string {
  const lines = [...matches, ...endings.map(({ ticket, at, outcome, code }) => ({ ticket, at, outcome, code }))];
  return lines.map((line) => `${JSON.stringify(line)}\n`).join("");
}
