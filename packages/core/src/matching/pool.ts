import { older } from "./age.ts";
import { ByPrice } from "./by-price.ts";
import type { Entrant } from "./entrant.ts";
import type { Found, Reach } from "./found.ts";
import type { Line } from "./line.ts";
import { type Match, matchOf } from "./match.ts";
import { openOf } from "./open-regions.ts";
import { fewestAt, type Packing, packingsOf } from "./packing.ts";
import type { PassOptions, PassResult } from "./pass.ts";
import { bestPlan, PLAN_PLAYERS_MAX } from "./plan.ts";
import type { Curve, MatchRules } from "./rules.ts";
import { Search } from "./search.ts";
import { Sides } from "./sides.ts";
import { Turns } from "./turns.ts";
import { type Row, Waiting } from "./waiting.ts";

/** Of more waiting tickets than this, a pass looks at so many, those that were not looked at for longest. */
export const EXAMINED_AGAIN = 500;

const FIRST_SLACK = 2;
const FIRST_STEPS = 1_500;
const FIRST_REACH: Reach = { slack: FIRST_SLACK, steps: FIRST_STEPS };
/** Who was not found a match with a search cut short is looked at more closely the next time, so many times doubled. */
const WIDER_MAX = 7;

/**
 * The tickets that wait in one queue, and how matches are made of them. It keeps no truth of its own: it is made anew
 * from the tickets at any time. Not pure inside, but a function of what was called on it: no clock, no chance.
 */
export class MatchPool {
  readonly rules: MatchRules;
  readonly #waiting: Waiting;
  readonly #search: Search;
  readonly #sides: Sides;
  readonly #turns: Turns;
  /** When matches are made by their price; else the longest waiting has the first choice. */
  readonly #byPrice: ByPrice | undefined;
  #isShare = false;
  #nowMs = 0;
  readonly #wider = new Map<Row, number>();
  /** What the pass under way looks at, and the place of what is next. */
  #due: Row[] = [];
  #dueAt = 0;
  #isUnderWay = false;
  /** A look that was left in the middle. */
  #left: Examining | undefined;
  #looks = 0;
  #matches: Match[] = [];
  #isEnough = () => false;
  /** Whether the last search might have found something with more candidates or steps. */
  #isCutShort = false;
  #seen = new Set<Row>();
  #planned = new Set<Line>();
  /** Matches that can still be played in each region; undefined when that does not matter. */
  #rooms: number[] | undefined;
  readonly #packings = new Map<number, readonly Packing[]>();

  constructor(rules: MatchRules) {
    this.rules = rules;
    this.#waiting = new Waiting(rules);
    this.#turns = new Turns(this.#waiting);
    this.#sides = new Sides(rules, this.#waiting);
    this.#search = new Search(rules, this.#waiting, (found) => this.#sides.arrange(found));
    if (rules.choose.by === "price") this.#byPrice = this.#makeByPrice(rules.choose.allowance);
  }

  #makeByPrice(allowance: Curve): ByPrice {
    return new ByPrice(allowance, {
      waiting: this.#waiting,
      bestFor: (row) => this.#bestFor(row),
      allOf: (row, among) => this.#allOf(row, among).filter((found) => this.#isGoodEnough(found)),
      make: (found) => this.#make(found),
      isEnough: () => this.#isEnough(),
    });
  }

  get size(): number {
    return this.#waiting.size;
  }

  /** Takes a ticket in. What is returned stands for it when it is to be taken out again. */
  add(entrant: Entrant): Row {
    const row = this.#waiting.add(entrant);
    this.#turns.add(row);
    return row;
  }

  /** Takes a ticket out; one that is out already, or was matched, stays so. */
  remove(row: Row): void {
    this.#waiting.remove(row);
    if (this.#wider.size > 0) this.#wider.delete(row);
  }

  /** Brings newcomers into the index, as the next pass would do first; with a share only if they are so many, to those that are in. */
  settle(nowMs: number, share = 0): void {
    this.#waiting.settle(nowMs, share);
  }

  /** All that wait, the longest waiting first. Changes nothing: who asks is of no account to the next pass. */
  byAge(): Entrant[] {
    return this.#turns.all().map(({ entrant }) => entrant);
  }

  /** Whether the last pass came to its end, so that the next call begins one. */
  get isBetweenPasses(): boolean {
    return !this.#isUnderWay;
  }

  /**
   * Of those that could meet by their key the ones whose first number lies within, the longest waiting first; of more than
   * `most` those in the middle. Settle before.
   */
  within(key: string, [lowest, highest]: readonly [number, number], max: number): Row[] {
    const line = this.#waiting.lines.get(key);
    if (!line) return [];
    const rows: Row[] = [];
    for (const position of line.positionsWithin(lowest, highest)) {
      if (rows.length === max) break;
      const row = this.#waiting.rows[line.slots[position] as number];
      if (row) rows.push(row);
    }
    return rows.sort(older);
  }

  /**
   * Makes what matches can be made at a moment. Newcomers are looked at, and of those that have been looked at before
   * as many as is said, all in the order of their age: whoever waits longest has the first choice, or the match with the
   * lowest price is made first. With `work` a pass is made in slices; the next call goes on where it stopped, also in the middle of a ticket.
   */
  pass(
    nowMs: number,
    {
      work = Number.POSITIVE_INFINITY,
      max = Number.POSITIVE_INFINITY,
      newcomers = Number.POSITIVE_INFINITY,
      examinedAgain = EXAMINED_AGAIN,
      rooms,
    }: PassOptions = {},
  ): PassResult {
    if (!this.#isUnderWay) this.#begin(nowMs, newcomers, examinedAgain);
    this.#isUnderWay = true;
    const matches: Match[] = [];
    const before = this.#work;
    const looksBefore = this.#looks;
    this.#matches = matches;
    this.#rooms = rooms && [...rooms];
    this.#search.open = openOf(rooms);
    this.#isEnough = () => this.#work - before >= work || matches.length >= max;
    if (!this.#isEnough() && this.#goOn()) this.leavePass();
    const hasMore = this.#isUnderWay || this.#turns.hasBacklog;
    return { matches, hasMore, looks: this.#looks - looksBefore, work: this.#work - before };
  }

  get #work(): number {
    return this.#search.work + this.#sides.work;
  }

  /** Goes on with the pass until there is enough, and says whether it came to its end. Some tickets may have gone meanwhile. */
  #goOn(): boolean {
    if (this.#left?.next().done === false) return false;
    this.#left = undefined;
    const due = this.#due;
    const waiting = this.#waiting;
    for (let at = this.#dueAt; at < due.length; at++) {
      const row = due[at] as Row;
      if (!waiting.isWaiting(row)) continue;
      this.#dueAt = at;
      if (this.#isEnough()) return false;
      this.#dueAt = at + 1;
      this.#looks += 1;
      const looking = this.#examine(row);
      if (looking?.next().done !== false) continue;
      this.#left = looking;
      return false;
    }
    return true;
  }

  /** Looks at a ticket, or returns what is still to be done for it: only that can be left in the middle, which costs. */
  #examine(row: Row): Examining | undefined {
    if (row.line.players <= PLAN_PLAYERS_MAX) return this.#examineFew(row.line);
    if (this.#isShare) return this.#look(row);
    const found = this.#ofLargest(row);
    if (found === undefined) return this.#examineSmaller(row);
    this.#make(found);
    return undefined;
  }

  #begin(nowMs: number, max: number, examinedAgain: number): void {
    // All slices of a pass look at the moment it began at: what fits then fits later too, since curves never fall.
    this.#nowMs = nowMs;
    this.#waiting.settle(nowMs);
    const { due, isAll } = this.#turns.next(max, examinedAgain);
    if (isAll) this.#waiting.refreshAll();
    this.#due = this.#byPrice ? [] : due;
    this.#left = this.#byPrice?.pass(due, nowMs);
    this.#seen = new Set(isAll ? [] : due);
    this.#isShare = !isAll;
    this.#planned = new Set();
  }

  /** Ends a pass that is not to be gone on with: what it has not come to is looked at by one of the next. */
  leavePass(): void {
    this.#due = [];
    this.#dueAt = 0;
    this.#left = undefined;
    this.#isUnderWay = false;
  }

  /** All who could meet are few: the best for all of them together. */
  *#examineFew(line: Line): Examining {
    if (this.#planned.has(line)) return;
    this.#planned.add(line);
    const plan = this.#plan(line).map((found) => ({ found, rows: this.#rowsOf(found) }));
    for (const { found, rows } of plan) {
      if (!this.#areWaiting(rows)) continue;
      this.#make(found);
      if (this.#isEnough()) yield;
    }
  }

  *#examineSmaller(row: Row): Examining {
    const found = yield* this.#ofSmaller(row);
    if (found) this.#make(found);
  }

  *#look(row: Row): Examining {
    let found = yield* this.#bestFor(row);
    if (!found) return;
    // Somebody older who is not looked at in this pass, but could be in a match now, has the first choice.
    const elder = this.#isShare ? this.#search.firstBefore(row, older, (one) => !this.#seen.has(one)) : undefined;
    if (elder) {
      this.#seen.add(elder);
      const rows = this.#rowsOf(found);
      const first = yield* this.#bestFor(elder);
      if (first) {
        this.#make(first);
        if (this.#isEnough()) yield;
        // It may be in that very match.
        if (!this.#waiting.isWaiting(row)) return;
        found = yield* this.#bestFor(row);
      } else if (!this.#areWaiting(rows)) found = yield* this.#bestFor(row);
    }
    if (found) this.#make(found);
  }

  #rowsOf({ slots }: Found): Row[] {
    return slots.map((slot) => this.#waiting.rows[slot] as Row);
  }

  /** Whether nobody has gone while the pass was left. */
  #areWaiting(rows: readonly Row[]): boolean {
    return rows.every((row) => this.#waiting.isWaiting(row));
  }

  /** Looks for the largest match a ticket can be in. Nothing may come between what it returns and what is made of it. */
  *#bestFor(row: Row): Generator<void, Found | undefined> {
    return this.#ofLargest(row) ?? (yield* this.#ofSmaller(row));
  }

  /** Looks for a match of the largest size, which is there as a rule. Apart from what can be left in the middle, which costs. */
  #ofLargest(row: Row): Found | undefined {
    const packing = this.#packingsFor(row)[0] as Packing;
    this.#isCutShort = false;
    return row.line.players < packing.players ? undefined : this.#searchFor(row, packing);
  }

  #isGoodEnough(found: Found): boolean {
    return this.#byPrice === undefined || this.#byPrice.priceOf(found) <= 0;
  }

  /** The same for the other sizes, once there was none of the largest. */
  *#ofSmaller(row: Row): Generator<void, Found | undefined> {
    const packings = this.#packingsFor(row);
    let isCutShort = this.#isCutShort;
    for (let n = 1; n < packings.length; n++) {
      if (this.#isEnough()) yield;
      const packing = packings[n] as Packing;
      if (row.line.players < packing.players) continue;
      if (!this.#waiting.isWaiting(row)) return undefined;
      const found = this.#searchFor(row, packing);
      if (found) return found;
      isCutShort ||= this.#isCutShort;
    }
    const wider = this.#wider.get(row) ?? 0;
    if (isCutShort && wider < WIDER_MAX) this.#wider.set(row, wider + 1);
    return undefined;
  }

  #searchFor(row: Row, packing: Packing): Found | undefined {
    const wider = this.#wider.size === 0 ? 0 : (this.#wider.get(row) ?? 0);
    const reach = wider === 0 ? FIRST_REACH : { slack: FIRST_SLACK * 2 ** wider, steps: FIRST_STEPS * 2 ** wider };
    const found = this.#search.best(row, packing, reach);
    this.#isCutShort = this.#search.isCutShort;
    return found && this.#isGoodEnough(found) ? found : undefined;
  }

  /** The match sizes a ticket accepts after its wait, the largest first. */
  #packingsFor({ sinceMs }: Row): readonly Packing[] {
    const min = fewestAt(this.rules, this.#nowMs - sinceMs);
    const known = this.#packings.get(min);
    if (known) return known;
    const packings = packingsOf(this.rules, min);
    this.#packings.set(min, packings);
    return packings;
  }

  #plan(line: Line): readonly Found[] {
    return bestPlan(this.#waiting.rowsOf(line).sort(older), (anchor, among) => this.#allOf(anchor, among));
  }

  #allOf(anchor: Row, among: (slot: number) => boolean): Found[] {
    return this.#packingsFor(anchor).flatMap((packing) =>
      this.#search.all(anchor, packing, { among, reach: { slack: 64, steps: 20_000 } }),
    );
  }

  /** One place less in the region of a match; with the last one no more are made there in this pass. */
  #useRoom({ region }: Match): void {
    const at = this.rules.latency?.regions.indexOf(region ?? "") ?? -1;
    if (this.#rooms === undefined || at < 0) return;
    this.#rooms[at] = (this.#rooms[at] ?? 0) - 1;
    this.#search.open = openOf(this.#rooms);
  }

  #make(found: Found): void {
    const match = matchOf(this.rules, { sides: this.#sides, waiting: this.#waiting, open: this.#search.open }, found);
    if (!match) return;
    this.#useRoom(match);
    for (const slot of found.slots) this.#waiting.take(found.line, slot);
    // Whoever is left moves together again: fewer steps to a neighbour, and memory that is used.
    if (found.line.isHalfEmpty) found.line.compact();
    this.#matches.push(match);
  }
}

/** A look at one ticket, left wherever there is enough for now. */
type Examining = Generator<void, void>;
