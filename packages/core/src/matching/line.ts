import { type Columns, columns, copy, Figures, strideOf } from "./columns.ts";
import { flatCurve, flatValueAt } from "./curve.ts";
import type { Entrant } from "./entrant.ts";
import { firstFrom, orderOf } from "./order.ts";
import type { MatchRules } from "./rules.ts";

/** All regions, for queues that do not ask for any. */
export const EVERY_REGION = -1;

/** Stands for tickets of whatever size. */
export const ANY_SIZE = 0;

/** Where the slots of tickets stand in their lines: -1 before they are merged in. Shared by all lines of a queue. */
export interface Positions {
  at: Int32Array;
}

/** Up to so many tickets it is faster to copy number by number. */
const FEW = 24;

/**
 * Tickets that could meet, in the order of their first number, with their figures in flat arrays: neighbours in the
 * order are neighbours in memory. Newcomers are merged in all at once. From any position the next ticket of each party
 * size, either way, is found in next to constant time, past those that have gone (disjoint sets, their paths halved).
 */
export class Line {
  length = 0;
  /** Players of all tickets, newcomers included. */
  players = 0;
  slots: Int32Array = new Int32Array(0);
  /** Party sizes. */
  sizes: Uint8Array = new Uint8Array(0);
  /** `stride` numbers of each ticket, and the largest gaps that it accepts, once {@link refresh} has worked them out. */
  numbers: Float64Array = new Float64Array(0);
  gaps = new Float64Array(0);
  /** Regions within each ticket's ceiling, one bit each, once {@link refresh} has worked them out. */
  regions = new Int32Array(0);
  readonly stride: number;
  /** Tickets of each party size, newcomers included. */
  readonly ofSize: Int32Array;
  readonly #gapCurves: readonly Float64Array[];
  readonly #ceilingCurve: Float64Array | null;
  readonly #positions: Positions;
  /** Of each ticket: since when it waits, the sum of its players' first numbers, its latencies. */
  #others: Float64Array = new Float64Array(0);
  /** The columns of before, which are written to next. */
  #spare: Columns = columns(0, 0, 0);
  readonly #othersWidth: number;
  /** For each position, from -1 to `length`, and for any and each party size: the next to the right and to the left. */
  #links: Int32Array;
  readonly #linksWidth: number;
  #gone = 0;
  #nowMs = Number.NaN;
  #context = 0;
  #refreshedFor = new Int32Array(0);
  #pendingSlots: number[] = [];
  #pendingSizes: number[] = [];
  readonly #pendingNumbers = new Figures();
  readonly #pendingOthers = new Figures();

  constructor(rules: MatchRules, positions: Positions) {
    this.#gapCurves = rules.closeness.map(({ gap }) => flatCurve(gap));
    this.#ceilingCurve = rules.latency && flatCurve(rules.latency.ceilingMs);
    this.#positions = positions;
    this.stride = strideOf(rules);
    this.#othersWidth = 2 + (rules.latency?.regions.length ?? 0);
    this.#linksWidth = 2 * (rules.party.max + 1);
    this.ofSize = new Int32Array(rules.party.max + 1);
    this.#links = new Int32Array(2 * this.#linksWidth);
    this.#link();
  }

  get isHalfEmpty(): boolean {
    return this.#gone * 2 > this.length;
  }

  add(slot: number, { numbers, latencies, players, party }: Entrant): void {
    this.#pendingSlots.push(slot);
    this.#pendingSizes.push(players.length);
    this.#count(players.length, 1);
    for (let n = 0; n < this.stride; n++) this.#pendingNumbers.push(numbers[n] ?? party.sinceMs);
    let sum = 0;
    for (const player of players) sum += player.numbers[0] ?? 0;
    this.#pendingOthers.push(party.sinceMs);
    this.#pendingOthers.push(sum);
    for (const latency of latencies) this.#pendingOthers.push(latency);
  }

  /** Takes out a ticket that was merged in. */
  remove(position: number): void {
    const size = this.sizes[position] as number;
    for (const which of [ANY_SIZE, size]) {
      const at = (position + 1) * this.#linksWidth + 2 * which;
      this.#links[at] = position + 1;
      this.#links[at + 1] = position - 1;
    }
    this.#count(size, -1);
    this.#gone += 1;
  }

  #count(size: number, sign: 1 | -1): void {
    this.players += sign * size;
    this.ofSize[size] = (this.ofSize[size] as number) + sign;
  }

  /** Takes out a newcomer. */
  forget(slot: number, size: number): void {
    const n = this.#pendingSlots.indexOf(slot);
    if (n < 0) return;
    this.#pendingSlots[n] = -1;
    this.#count(size, -1);
  }

  /** First ticket of a size, or of {@link ANY_SIZE}, at a position or to its right, or `length`. */
  right(size: number, position: number): number {
    return this.#find(2 * size, position);
  }

  /** The same to its left, or -1. */
  left(size: number, position: number): number {
    return this.#find(2 * size + 1, position);
  }

  #find(which: number, position: number): number {
    const links = this.#links;
    const width = this.#linksWidth;
    let at = position;
    for (;;) {
      const place = (at + 1) * width + which;
      const next = links[place] as number;
      if (next === at) return at;
      // Halves the path for whoever comes after.
      links[place] = links[(next + 1) * width + which] as number;
      at = next;
    }
  }

  /** Positions of those whose first number lies within, both ends included, from the middle outwards. */
  *positionsWithin(lowest: number, highest: number): Generator<number> {
    const middle = Number.isFinite(lowest) && Number.isFinite(highest) ? (lowest + highest) / 2 : lowest;
    let right = this.right(ANY_SIZE, firstFrom(middle, this));
    let left = this.left(ANY_SIZE, right - 1);
    for (;;) {
      const [below, above] = [this.#numberAt(left), this.#numberAt(right)];
      const [hasLeft, hasRight] = [below >= lowest, above <= highest];
      if (!hasLeft && !hasRight) return;
      if (hasLeft && !(hasRight && above - middle < middle - below)) {
        yield left;
        left = this.left(ANY_SIZE, left - 1);
      } else {
        yield right;
        right = this.right(ANY_SIZE, right + 1);
      }
    }
  }

  /** The first number at a position; none, which no comparison holds for, beyond the ends. */
  #numberAt(position: number): number {
    return position < 0 || position >= this.length ? Number.NaN : (this.numbers[position * this.stride] as number);
  }

  /** Sum of the first numbers of a ticket's players. */
  sumOf(position: number): number {
    return this.#others[position * this.#othersWidth + 1] as number;
  }

  /** Worst latency of a ticket's players to a region. */
  latencyOf(position: number, region: number): number {
    return this.#others[position * this.#othersWidth + 2 + region] as number;
  }

  /** From now on {@link refresh} works out what tickets accept at this moment. */
  setMoment(nowMs: number): void {
    if (nowMs === this.#nowMs) return;
    this.#nowMs = nowMs;
    this.#context += 1;
  }

  /** Works out what a ticket accepts at the moment that was set, once for each moment. */
  refresh(position: number): void {
    if (this.#refreshedFor[position] === this.#context) return;
    this.#refreshedFor[position] = this.#context;
    const { gaps, stride } = this;
    const others = this.#others;
    const from = position * this.#othersWidth;
    const seconds = (this.#nowMs - (others[from] as number)) / 1_000;
    const curves = this.#gapCurves;
    if (curves.length === 0) gaps[position] = Number.POSITIVE_INFINITY;
    for (let n = 0; n < curves.length; n++)
      gaps[position * stride + n] = flatValueAt(curves[n] as Float64Array, seconds);
    if (this.#ceilingCurve === null) return;
    const ceiling = flatValueAt(this.#ceilingCurve, seconds);
    let regions = 0;
    for (let n = 2; n < this.#othersWidth; n++) if ((others[from + n] as number) <= ceiling) regions |= 1 << (n - 2);
    this.regions[position] = regions;
  }

  /** The same for all of them, one after the other as they lie in memory: many times as fast as each where it is met. */
  refreshAll(): void {
    for (let position = 0; position < this.length; position++) this.refresh(position);
  }

  /**
   * Brings newcomers in and takes the gone out for good, if there are any to speak of; with a share only once there are so
   * many newcomers to each ticket that is in already. Positions change.
   */
  settle(share = 0): void {
    const many = this.#pendingSlots.length;
    if ((many === 0 && !this.isHalfEmpty) || many < share * this.length) return;
    const numbers = this.#pendingNumbers.values;
    const keys = new Float64Array(many);
    for (let n = 0; n < many; n++) keys[n] = numbers[n * this.stride] as number;
    const slots = Int32Array.from(this.#pendingSlots);
    const sizes = Uint8Array.from(this.#pendingSizes);
    const order = orderOf(keys).filter((n) => slots[n] !== -1);
    this.#merge(order, { slots, sizes, numbers, others: this.#pendingOthers.values });
    this.#pendingSlots = [];
    this.#pendingSizes = [];
    this.#pendingNumbers.clear();
    this.#pendingOthers.clear();
  }

  /** Takes the gone out for good, in the middle of a pass: newcomers still wait. */
  compact(): void {
    this.#merge(new Uint32Array(0), this.#own());
  }

  #own(): Columns {
    return { slots: this.slots, sizes: this.sizes, numbers: this.numbers, others: this.#others };
  }

  /** Positions of those that have not gone. */
  #alive(): Int32Array {
    const alive = new Int32Array(this.length - this.#gone);
    if (this.#gone === 0) {
      for (let position = 0; position < alive.length; position++) alive[position] = position;
      return alive;
    }
    const links = this.#links;
    let to = 0;
    for (let position = 0; position < this.length; position++) {
      const at = (position + 1) * this.#linksWidth;
      if (links[at] !== position) continue;
      alive[to] = position;
      to += 1;
    }
    return alive;
  }

  #merge(order: Uint32Array, fresh: Columns): void {
    const { stride } = this;
    const old = this.#own();
    const alive = this.#alive();
    const length = alive.length + order.length;
    this.#takeUp(length, old);
    let kept = 0;
    let to = 0;
    // Between two newcomers the others keep their order, and those that stood side by side still do.
    for (let taken = 0; taken <= order.length; taken++) {
      const from = order[taken];
      const before = from === undefined ? Infinity : (fresh.numbers[from * stride] as number);
      while (kept < alive.length && !(before < (old.numbers[(alive[kept] as number) * stride] as number))) {
        const first = kept;
        const start = alive[first] as number;
        do kept += 1;
        while (
          kept < alive.length &&
          alive[kept] === start + kept - first &&
          !(before < (old.numbers[(start + kept - first) * stride] as number))
        );
        this.#copy(old, start, to, kept - first);
        to += kept - first;
      }
      if (from === undefined) break;
      this.#copy(fresh, from, to, 1);
      to += 1;
    }
    const positions = this.#positions.at;
    for (let position = 0; position < length; position++) positions[this.slots[position] as number] = position;
    this.length = length;
    this.#refreshedFor.fill(-1, 0, length);
    this.#gone = 0;
    this.#link();
  }

  /** Makes room for so many. Two sets of columns take turns: fresh memory costs more than all that is written to it. */
  #takeUp(length: number, old: Columns): void {
    const room = this.#refreshedFor.length;
    if (length > room || room > 4 * length + 1_024) {
      const wide = length + (length >> 2);
      this.gaps = new Float64Array(wide * this.stride);
      this.regions = new Int32Array(wide).fill(EVERY_REGION);
      this.#refreshedFor = new Int32Array(wide);
      this.#links = new Int32Array((wide + 2) * this.#linksWidth);
    }
    const max = this.#refreshedFor.length;
    const next = this.#spare.slots.length === max ? this.#spare : columns(max, this.stride, this.#othersWidth);
    this.slots = next.slots;
    this.sizes = next.sizes;
    this.numbers = next.numbers;
    this.#others = next.others;
    this.#spare = old;
  }

  /** Copies tickets that stand side by side. */
  #copy({ slots, sizes, numbers, others }: Columns, from: number, to: number, many: number): void {
    const { stride } = this;
    const width = this.#othersWidth;
    if (many < FEW) {
      for (let n = 0; n < many; n++) {
        this.slots[to + n] = slots[from + n] as number;
        this.sizes[to + n] = sizes[from + n] as number;
      }
      copy(numbers, from * stride, this.numbers, to * stride, many * stride);
      copy(others, from * width, this.#others, to * width, many * width);
      return;
    }
    this.slots.set(slots.subarray(from, from + many), to);
    this.sizes.set(sizes.subarray(from, from + many), to);
    this.numbers.set(numbers.subarray(from * stride, (from + many) * stride), to * stride);
    this.#others.set(others.subarray(from * width, (from + many) * width), to * width);
  }

  #link(): void {
    const { length, sizes } = this;
    const width = this.#linksWidth;
    const links = this.#links;
    const next = new Int32Array(width).fill(length);
    for (let position = length; position >= -1; position--) {
      if (position >= 0 && position < length) {
        next[2 * ANY_SIZE] = position;
        next[2 * (sizes[position] as number)] = position;
      }
      for (let which = 0; which < width; which += 2) links[(position + 1) * width + which] = next[which] as number;
    }
    next.fill(-1);
    for (let position = -1; position <= length; position++) {
      if (position >= 0 && position < length) {
        next[2 * ANY_SIZE + 1] = position;
        next[2 * (sizes[position] as number) + 1] = position;
      }
      for (let which = 1; which < width; which += 2) links[(position + 1) * width + which] = next[which] as number;
    }
  }
}
