import { CANDIDATES_MAX, Candidates, WANT_WORK } from "./candidates.ts";
import { strideOf } from "./columns.ts";
import { type Entrant, wantEachOther } from "./entrant.ts";
import type { Found, Reach } from "./found.ts";
import { EVERY_REGION, type Line } from "./line.ts";
import { Near } from "./near.ts";
import type { Completions, Packing } from "./packing.ts";
import { SharedPreferences } from "./preferences.ts";
import type { MatchRules } from "./rules.ts";
import type { Row, Waiting } from "./waiting.ts";

/** What a search costs at the most, in tickets held against each other: a millisecond or two, however it goes. */
const WORK_MAX = 25_000;

/** What a search costs before anything is looked at. */
const BASE_WORK = 100;
/** Putting a set into sides costs about so many comparisons. */
const TAKE_WORK = 40;

/** So many are taken before the first try; more only as far as a better match could be made with them. */
const FIRST_TAKEN = 6;

/** With more tickets in a line than this, the best of the nearest will do: they lie close together. */
const EXACT_UP_TO = 500;

/**
 * Looks for the best match of one ticket: the nearest candidates are put together by branch and bound, where a set is
 * left as soon as it cannot become better than the best one so far. Exact as long as candidates and steps suffice.
 */
export class Search {
  #isOutOfSteps = false;
  /** What was done since the search was made: tickets that were looked at or held against each other. */
  work = 0;
  /** Regions where there is a place to play, one bit each: what is found can be played in one of them. */
  open = EVERY_REGION;
  readonly #rules: MatchRules;
  readonly #waiting: Waiting;
  readonly #accepts: (found: Found) => boolean;
  readonly #hasLists: boolean;
  readonly #weights: Float64Array;
  readonly #stride: number;

  readonly #candidates: Candidates;

  // The set that is being put together: what it spans and what its members accept, by depth.
  readonly #chosen: number[] = [];
  readonly #lowest: Float64Array;
  readonly #highest: Float64Array;
  readonly #floor: Float64Array;
  readonly #ceiling: Float64Array;
  readonly #near: Near;
  readonly #common: (readonly (readonly string[])[])[] = [];
  readonly #preferences: SharedPreferences;
  #anchor: Row | undefined;
  #anchorRegions = 0;
  #packing: Packing | undefined;
  #stepsLeft = 0;
  #workLeft = 0;
  #completions: Completions | undefined;
  #best = Number.POSITIVE_INFINITY;
  #bestSize = -1;
  readonly #bestSet: number[] = [];
  /** Only sets with a candidate from here on are looked at: the others were already. */
  #freshFrom = 0;
  #visit: ((found: Found) => void) | undefined;

  constructor(rules: MatchRules, waiting: Waiting, accepts: (found: Found) => boolean) {
    const stride = strideOf(rules);
    const depth = rules.sides.count * rules.sides.max + 1;
    this.#rules = rules;
    this.#waiting = waiting;
    this.#accepts = accepts;
    this.#stride = stride;
    this.#hasLists = rules.needs.some((need) => "must" in need && need.must === "overlap");
    this.#preferences = new SharedPreferences(rules);
    this.#weights = Float64Array.from(rules.closeness.length === 0 ? [0] : rules.closeness.map(({ weight }) => weight));
    this.#lowest = new Float64Array(depth * stride);
    this.#highest = new Float64Array(depth * stride);
    this.#floor = new Float64Array(depth * stride);
    this.#ceiling = new Float64Array(depth * stride);
    const stand = { lowest: this.#lowest, floor: this.#floor, ceiling: this.#ceiling };
    this.#near = new Near(rules);
    this.#candidates = new Candidates(rules, waiting, stand, this.#weights[0] as number);
  }

  /** The best match with this ticket, or undefined when there is none. */
  best(anchor: Row, packing: Packing, reach: Reach): Found | undefined {
    this.#visit = undefined;
    this.#run(anchor, packing, reach);
    if (this.#bestSize < 0) return undefined;
    // As long as it will be: one that grows takes several times as much, and there are many of them.
    const slots = new Array<number>(this.#bestSize + 1);
    slots[0] = anchor.slot;
    for (let n = 0; n < this.#bestSize; n++)
      slots[n + 1] = this.#candidates.slots[this.#bestSet[n] as number] as number;
    return { line: anchor.line, slots, score: this.#best, packing };
  }

  /** Every match with this ticket and others out of `among`. */
  all(anchor: Row, packing: Packing, { among, reach }: { among: (slot: number) => boolean; reach: Reach }): Found[] {
    const found: Found[] = [];
    this.#visit = (one) => found.push(one);
    this.#run(anchor, packing, reach, among);
    return found;
  }

  /** Of the candidates of the last search, the first by an order, if any is before `row` and wanted. */
  firstBefore(row: Row, before: (one: Row, other: Row) => number, isWanted: (one: Row) => boolean): Row | undefined {
    let first: Row | undefined;
    for (let n = 0; n < this.#candidates.count; n++) {
      const one = this.#waiting.rows[this.#candidates.slots[n] as number] as Row;
      if (before(one, first ?? row) < 0 && isWanted(one)) first = one;
    }
    return first;
  }

  #entrant(n: number): Entrant {
    return this.#waiting.entrants[this.#candidates.slots[n] as number] as Entrant;
  }

  /** Whether candidates or steps did not suffice: with more of them something else might have been found. */
  get isCutShort(): boolean {
    return this.#isOutOfSteps || this.#candidates.isCutShort;
  }

  #run(anchor: Row, packing: Packing, reach: Reach, among?: (slot: number) => boolean): void {
    const looksBefore = this.#candidates.looks;
    const packingBefore = packing.work;
    const nearBefore = this.#near.looks;
    this.#workLeft = WORK_MAX;
    this.#look(anchor, packing, reach, among);
    const { looks } = this.#candidates;
    this.work +=
      BASE_WORK +
      WORK_MAX -
      this.#workLeft +
      looks -
      looksBefore +
      packing.work -
      packingBefore +
      this.#near.looks -
      nearBefore;
  }

  #look(anchor: Row, packing: Packing, reach: Reach, among?: (slot: number) => boolean): void {
    const { line } = anchor;
    const position = this.#waiting.positions.at[anchor.slot] as number;
    this.#isOutOfSteps = false;
    this.#best = Number.POSITIVE_INFINITY;
    this.#bestSize = -1;
    this.#anchor = anchor;
    this.#packing = packing;
    this.#stepsLeft = reach.steps;
    const size = line.sizes[position] as number;
    line.refresh(position);
    this.#anchorRegions = (line.regions[position] as number) & this.open;
    this.#candidates.standAt(anchor, position, this.#anchorRegions, among);
    if (size > packing.players || this.#anchorRegions === 0) return;
    const key = packing.radix[size] as number;
    if (!packing.completionsOf(packing.keyOf(line.ofSize)).can(key)) return;
    this.#stand(line, position);
    if (size === packing.players) {
      this.#take(0, this.#preferences.points(0));
      return;
    }
    if (this.#visit === undefined) {
      this.#candidates.walkAny();
      this.#grow(line, size, key, FIRST_TAKEN);
    }
    if (this.#bestSize < 0) {
      // What was left undone among the nearest is done here, as far as the work of one search goes.
      this.#isOutOfSteps = false;
      this.#candidates.walkEach(packing.players - size, reach.slack);
      this.#grow(line, size, key, this.#visit === undefined ? FIRST_TAKEN : CANDIDATES_MAX);
    }
  }

  #isEnoughNear(line: Line, packing: Packing, key: number): boolean {
    const position = this.#waiting.positions.at[(this.#anchor as Row).slot] as number;
    const widest = (this.#ceiling[0] as number) - (this.#lowest[0] as number);
    return this.#near.isEnough(packing, { line, position, widest }, key);
  }

  /** The set as it is with the anchor alone. */
  #stand(line: Line, position: number): void {
    for (let n = 0; n < this.#stride; n++) {
      const number = line.numbers[position * this.#stride + n] as number;
      const gap = line.gaps[position * this.#stride + n] as number;
      this.#lowest[n] = number;
      this.#highest[n] = number;
      this.#floor[n] = number - gap;
      this.#ceiling[n] = number + gap;
    }
    if (this.#hasLists) this.#common[0] = (this.#anchor as Row).entrant.lists;
    this.#preferences.start((this.#anchor as Row).entrant.preferred);
  }

  /** Takes candidates and tries them, a few at first, until no more could make a better match. */
  #grow(line: Line, size: number, key: number, first: number): void {
    let isKnown = false;
    for (let many = first; ; many *= 2) {
      this.#freshFrom = this.#candidates.count;
      this.#candidates.collect(many, this.#best);
      if (this.#candidates.count === this.#freshFrom) return;
      const own = (this.#anchor as Row).entrant.players.length;
      const packing = this.#packing as Packing;
      const available = packing.keyOf(this.#candidates.ofSize, own);
      this.#completions = packing.completionsOf(available);
      if (!this.#completions.can(key)) {
        // Those that are nearest do not do: it is looked at what is there at all, before more of the same are taken.
        if (!isKnown && !this.#isEnoughNear(line, packing, key)) return;
        isKnown = true;
        continue;
      }
      this.#try(size, key, line.length);
      if (this.#bestSize >= 0 && line.length > EXACT_UP_TO) return;
    }
  }

  /** Where tickets are few, region by region: candidates that share none lead nowhere soon. Among many the nearest go together. */
  #try(size: number, key: number, length: number): void {
    const regions = this.#anchorRegions;
    if (this.#visit !== undefined || regions === EVERY_REGION || length > EXACT_UP_TO) {
      this.#extend(0, 0, size, key, regions);
      return;
    }
    for (let left = regions; left !== 0; left &= left - 1) this.#extend(0, 0, size, key, left & -left);
  }

  #extend(from: number, depth: number, players: number, key: number, regions: number): void {
    const packing = this.#packing as Packing;
    const target = packing.players;
    const completions = this.#completions as Completions;
    // Fields are read once: what is in here is done a million times in a large pass.
    const { count, far, sizes, regions: theirs } = this.#candidates;
    for (let n = from; n < count; n++) {
      this.#workLeft -= 1;
      // Whoever is added makes the match at least as wide as its own distance.
      if ((far[n] as number) >= this.#best) return;
      const size = sizes[n] as number;
      const filled = players + size;
      const shared = regions & (theirs[n] as number);
      if (filled > target || shared === 0 || this.#isIdle(n, filled === target)) continue;
      if (this.#stepsLeft === 0 || this.#workLeft <= 0) {
        this.#isOutOfSteps = true;
        return;
      }
      this.#stepsLeft -= 1;
      const nextKey = key + (packing.radix[size] as number);
      const score = completions.can(nextKey) ? this.#scoreWith(n, depth) : Number.POSITIVE_INFINITY;
      if (score >= this.#best) continue;
      this.#chosen[depth] = n;
      if (filled === target) this.#take(depth + 1, score);
      else this.#extend(n + 1, depth + 1, filled, nextKey, shared);
    }
  }

  /**
   * Whether nothing new comes of a candidate: the last one to come in has to be a fresh one, since sets without any were
   * looked at before; and behind any other somebody has to come, at least as far off as the next.
   */
  #isIdle(n: number, isLast: boolean): boolean {
    if (isLast) return n < this.#freshFrom;
    const { count, far } = this.#candidates;
    return n + 1 === count || (far[n + 1] as number) >= this.#best;
  }

  /** The score of the set with one more candidate; infinity when they do not go together. */
  #scoreWith(n: number, depth: number): number {
    let score = this.#span(n, depth);
    if (this.#preferences.areAny && score < this.#best) {
      this.#workLeft -= this.#preferences.work;
      score += this.#preferences.add(this.#entrant(n).preferred, depth);
    }
    if (score >= this.#best || !(this.#hasLists || this.#waiting.hasWants)) return score;
    return this.#agrees(n, depth) ? score : Number.POSITIVE_INFINITY;
  }

  /** Adds a candidate to what the set spans, one level deeper. Its score then, or infinity when somebody is too far off. */
  #span(n: number, depth: number): number {
    const stride = this.#stride;
    const { numbers, gaps } = this.#candidates;
    const from = depth * stride;
    const to = from + stride;
    let score = 0;
    for (let d = 0; d < stride; d++) {
      const number = numbers[n * stride + d] as number;
      const gap = gaps[n * stride + d] as number;
      const floor = this.#floor[from + d] as number;
      const ceiling = this.#ceiling[from + d] as number;
      if (number < floor || number > ceiling) return Number.POSITIVE_INFINITY;
      let lowest = this.#lowest[from + d] as number;
      let highest = this.#highest[from + d] as number;
      if (number < lowest) lowest = number;
      if (number > highest) highest = number;
      if (highest - number > gap || number - lowest > gap) return Number.POSITIVE_INFINITY;
      this.#lowest[to + d] = lowest;
      this.#highest[to + d] = highest;
      this.#floor[to + d] = number - gap > floor ? number - gap : floor;
      this.#ceiling[to + d] = number + gap < ceiling ? number + gap : ceiling;
      score += (this.#weights[d] as number) * (highest - lowest);
    }
    return score;
  }

  #agrees(n: number, depth: number): boolean {
    const entrant = this.#entrant(n);
    if (this.#hasLists) {
      const common = (this.#common[depth] ?? []).map((list, at) =>
        list.filter((entry) => entrant.listSets[at]?.has(entry)),
      );
      for (const list of this.#common[depth] ?? []) this.#workLeft -= list.length;
      if (common.some((list) => list.length === 0)) return false;
      this.#common[depth + 1] = common;
    }
    for (let at = 0; at < depth && this.#waiting.hasWants; at++) {
      const other = this.#entrant(this.#chosen[at] as number);
      this.#workLeft -= WANT_WORK * (entrant.wants.length + other.wants.length);
      if (!wantEachOther(entrant, other)) return false;
    }
    return true;
  }

  #take(size: number, score: number): void {
    if (this.#rules.lineUp || this.#visit) {
      const { line, slot } = this.#anchor as Row;
      const slots = [slot, ...this.#chosen.slice(0, size).map((n) => this.#candidates.slots[n] as number)];
      const found = { line, slots, score, packing: this.#packing as Packing };
      this.#workLeft -= TAKE_WORK;
      if (this.#rules.lineUp && !this.#accepts(found)) return;
      if (this.#visit) {
        this.#visit(found);
        return;
      }
    }
    this.#best = score;
    this.#bestSize = size;
    for (let n = 0; n < size; n++) this.#bestSet[n] = this.#chosen[n] as number;
  }
}
