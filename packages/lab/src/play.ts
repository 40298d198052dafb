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
  readonly outcome: "expired" | "cancelled" | "waiting" | "refused";
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
}

interface Waiter {
  readonly line: TicketLine;
  readonly row: WaitingRow;
  readonly expiresMs: number;
  readonly cancelMs: number;
}

/**
 * Plays traffic through a queue in virtual time, by the very pass that the service makes. It goes on after the last
 * ticket until nothing can change any more, or until `untilS`.
 */
export function play(queue: QueueRules, tickets: readonly TicketLine[], { untilS = Infinity } = {}): Played {
  return new Play(queue, tickets, untilS * 1_000).run();
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

  constructor(queue: QueueRules, tickets: readonly TicketLine[], untilMs: number) {
    this.#queue = queue;
    this.#tickets = tickets;
    this.#untilMs = untilMs;
    this.#pool = new MatchPool(queue.match);
    const { closeness, latency, fewer } = queue.match;
    const curves = [...closeness.map(({ gap }) => gap), ...(latency ? [latency.ceilingMs] : [])];
    const ends = [...curves.map((curve) => (curve.at(-1)?.[0] ?? 0) * 1_000), ...fewer.map(({ afterMs }) => afterMs)];
    this.#flatAfterMs = Math.max(0, ...ends) + queue.passEveryMs;
  }

  run(): Played {
    let nowMs = 0;
    for (let passMs = this.#nextPassMs(-1); passMs !== undefined; passMs = this.#nextPassMs(nowMs)) {
      nowMs = Math.min(passMs, this.#untilMs);
      this.#enterUpTo(nowMs);
      for (const waiter of [...this.#waiting.values()]) this.#end(waiter, nowMs);
      if (passMs > this.#untilMs) break;
      if (this.#waiting.size > 0) this.#pass(nowMs);
    }
    for (const { line } of this.#waiting.values()) {
      this.#endings.push({ ticket: line.ticket, at: nowMs / 1_000, outcome: "waiting" });
    }
    return {
      matches: this.#matches,
      endings: this.#endings.sort((a, b) => a.at - b.at),
      waits: this.#waits,
      depths: this.#depths,
      passes: this.#passes,
    };
  }

  /** The next pass that could find something or has somebody to let go. */
  #nextPassMs(nowMs: number): number | undefined {
    const every = this.#queue.passEveryMs;
    const soonest = (Math.floor(nowMs / every) + 1) * every;
    const isGrowing = !this.#isStill || soonest <= this.#lastEntryMs + this.#flatAfterMs;
    if (this.#waiting.size > 0 && isGrowing) return soonest;
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
    const { matches } = this.#pool.pass(nowMs);
    this.#passes += 1;
    this.#isStill = matches.length === 0;
    for (const match of matches) this.#make(match, nowMs);
    this.#depths.push([nowMs / 1_000, this.#waiting.size]);
  }

  #make(match: Match, nowMs: number): void {
    const tickets = match.entrants.map(({ party }: Entrant) => party.ticket);
    this.#matches.push({
      at: nowMs / 1_000,
      match: `m${this.#matches.length + 1}`,
      region: match.region,
      tickets,
      sides: sidesOf(match),
      quality: qualityOf(this.#queue.match, match, nowMs),
    });
    for (const { party } of match.entrants) {
      const waiter = this.#waiting.get(party.ticket);
      if (waiter) this.#leave(waiter.line);
      this.#waits.push((nowMs - party.sinceMs) / 1_000);
    }
  }
}

const alreadySearching = (player: string, ticket: string): Problem =>
  problem("already-searching", `Player ${player} is searching already, with ticket ${ticket}; cancel that one first.`);

/** The lines that are written down: the matches in their order, then the tickets that were in none. */
export function linesOf({ matches, endings }: Played): string {
  const lines = [...matches, ...endings.map(({ ticket, at, outcome, code }) => ({ ticket, at, outcome, code }))];
  return lines.map((line) => `${JSON.stringify(line)}\n`).join("");
}
