import type { Entrant, EntrantPlayer } from "./entrant.ts";
import type { Found } from "./found.ts";
import { postsFilled, postsOf } from "./posts.ts";
import type { MatchRules } from "./rules.ts";
import type { Waiting } from "./waiting.ts";

/** Steps within which the exact search has to end; up to 12 units in two sides always do. */
const STEPS_MAX = 20_000;

const FIRST_UNITS = 64;

/** Players of each side. */
interface Limits {
  readonly min: number;
  readonly max: number;
}

/**
 * Puts tickets into sides: sizes as the rules say, parties whole if they are to be, line-ups filled, and the means of
 * the sides as close as they can be by the first number that tickets are matched by. Exact where that is small;
 * otherwise the strongest first to the weakest side, then exchanges as long as they help.
 */
export class Sides {
  readonly #rules: MatchRules;
  readonly #waiting: Waiting;
  readonly #count: number;
  readonly #posts: readonly string[];
  // Units are players that go to the same side together, the largest first: a party, or each of its players by itself.
  #units = 0;
  /** Players of the match. */
  #all = 0;
  /** Its first player, counted through all players of the match. */
  #first = new Uint8Array(FIRST_UNITS);
  #size = new Uint8Array(FIRST_UNITS);
  #unitStrength = new Float64Array(FIRST_UNITS);
  /** Side of each unit, now and in the best way so far. */
  #sideOf = new Uint8Array(FIRST_UNITS);
  #bestSideOf = new Uint8Array(FIRST_UNITS);
  readonly #players: Int32Array;
  readonly #strength: Float64Array;
  #slots: readonly number[] = [];
  #limits: Limits = { min: 0, max: 0 };
  #best = Number.POSITIVE_INFINITY;
  #steps = 0;
  /** Steps of all arrangements since it was made. */
  work = 0;

  constructor(rules: MatchRules, waiting: Waiting) {
    this.#rules = rules;
    this.#waiting = waiting;
    this.#count = rules.sides.count;
    this.#posts = postsOf(rules);
    this.#players = new Int32Array(this.#count);
    this.#strength = new Float64Array(this.#count);
  }

  /** Finds the best way. Whether there is one: see {@link sideOf} then. */
  arrange(found: Found): boolean {
    this.#take(found);
    this.#limits = found.packing;
    this.#best = Number.POSITIVE_INFINITY;
    this.#steps = 0;
    this.#players.fill(0);
    this.#strength.fill(0);
    this.#place(0);
    if (this.#steps > STEPS_MAX) this.#improve();
    this.work += this.#steps;
    return this.#best < Number.POSITIVE_INFINITY;
  }

  /** The units, the largest first: what is hardest to place goes where there is still room. */
  #take({ line, slots }: Found): void {
    this.#slots = slots;
    this.#units = 0;
    // Of who is alone the number is the sum, and lies where the search has just looked.
    const isSum = this.#rules.closeness.length > 0;
    let first = 0;
    for (let n = 0; n < slots.length; n++) {
      const slot = slots[n] as number;
      const position = this.#waiting.positions.at[slot] as number;
      const size = line.sizes[position] as number;
      if (first + size > this.#sideOf.length) this.#grow();
      if (this.#rules.party.together)
        this.#insert(
          first,
          size,
          isSum && size === 1 ? (line.numbers[position * line.stride] as number) : line.sumOf(position),
        );
      else this.#insertEach(first, slot);
      first += size;
    }
    this.#all = first;
  }

  #insertEach(first: number, slot: number): void {
    const { players } = this.#waiting.entrants[slot] as Entrant;
    for (const [n, { numbers }] of players.entries()) this.#insert(first + n, 1, numbers[0] ?? 0);
  }

  #insert(first: number, size: number, strength: number): void {
    let at = this.#units;
    this.#units = at + 1;
    while (at > 0 && (this.#size[at - 1] as number) < size) {
      this.#first[at] = this.#first[at - 1] as number;
      this.#size[at] = this.#size[at - 1] as number;
      this.#unitStrength[at] = this.#unitStrength[at - 1] as number;
      at -= 1;
    }
    this.#first[at] = first;
    this.#size[at] = size;
    this.#unitStrength[at] = strength;
  }

  #grow(): void {
    const units = this.#sideOf.length * 2;
    this.#sideOf = moved(this.#sideOf, new Uint8Array(units));
    this.#bestSideOf = moved(this.#bestSideOf, new Uint8Array(units));
    this.#first = moved(this.#first, new Uint8Array(units));
    this.#size = moved(this.#size, new Uint8Array(units));
    this.#unitStrength = moved(this.#unitStrength, new Float64Array(units));
  }

  #place(n: number): void {
    if (n === this.#units) {
      this.#weigh();
      return;
    }
    this.#steps += 1;
    if (this.#steps > STEPS_MAX) return;
    const size = this.#size[n] as number;
    for (let side = 0; side < this.#count; side++) {
      const players = this.#players[side] as number;
      if (players + size <= this.#limits.max) {
        this.#sideOf[n] = side;
        this.#move(n, side, 1);
        this.#place(n + 1);
        this.#move(n, side, -1);
      }
      // Sides that are still empty are alike: the first of them stands for all.
      if (players === 0) return;
    }
  }

  #move(n: number, side: number, sign: 1 | -1): void {
    const size = this.#size[n] as number;
    const strength = this.#unitStrength[n] as number;
    this.#players[side] = (this.#players[side] as number) + sign * size;
    this.#strength[side] = (this.#strength[side] as number) + sign * strength;
  }

  #weigh(): void {
    for (let side = 0; side < this.#count; side++) {
      if ((this.#players[side] as number) < Math.max(1, this.#limits.min)) return;
    }
    const gap = this.#gap();
    if (gap >= this.#best || !this.#fillsLineUps()) return;
    this.#best = gap;
    for (let n = 0; n < this.#units; n++) this.#bestSideOf[n] = this.#sideOf[n] as number;
  }

  /** Between the strongest and the weakest side, by the mean of their players. */
  #gap(): number {
    let lowest = Number.POSITIVE_INFINITY;
    let highest = Number.NEGATIVE_INFINITY;
    for (let side = 0; side < this.#count; side++) {
      const mean = (this.#strength[side] as number) / (this.#players[side] as number);
      if (mean < lowest) lowest = mean;
      if (mean > highest) highest = mean;
    }
    return highest - lowest;
  }

  /** Too many ways to try them all: from the best one found, or a greedy one, on by exchanges. */
  #improve(): void {
    this.#players.fill(0);
    this.#strength.fill(0);
    const isGreedy = this.#best === Number.POSITIVE_INFINITY;
    for (let n = 0; n < this.#units; n++) {
      const side = isGreedy ? this.#weakestFor(n) : (this.#bestSideOf[n] as number);
      if (side < 0) return;
      this.#sideOf[n] = side;
      this.#move(n, side, 1);
    }
    this.#weigh();
    while (this.#exchange()) this.#weigh();
  }

  #weakestFor(n: number): number {
    const size = this.#size[n] as number;
    let weakest = -1;
    for (let side = 0; side < this.#count; side++) {
      if ((this.#players[side] as number) + size > this.#limits.max) continue;
      if (weakest < 0 || this.#isWeaker(side, weakest)) weakest = side;
    }
    return weakest;
  }

  #isWeaker(side: number, other: number): boolean {
    const players = (this.#players[side] as number) - (this.#players[other] as number);
    return players < 0 || (players === 0 && (this.#strength[side] as number) < (this.#strength[other] as number));
  }

  /** Exchanges the first two units of the same size whose exchange brings the sides closer. */
  #exchange(): boolean {
    const before = this.#gap();
    for (let one = 0; one < this.#units; one++) {
      for (let other = one + 1; other < this.#units; other++) {
        if (this.#sideOf[one] === this.#sideOf[other]) continue;
        if (this.#size[one] !== this.#size[other]) continue;
        this.#swap(one, other);
        if (this.#gap() < before - 1e-9 && this.#fillsLineUps()) return true;
        this.#swap(one, other);
      }
    }
    return false;
  }

  #swap(one: number, other: number): void {
    const [a, b] = [this.#sideOf[one] as number, this.#sideOf[other] as number];
    this.#move(one, a, -1);
    this.#move(other, b, -1);
    this.#sideOf[one] = b;
    this.#sideOf[other] = a;
    this.#move(one, b, 1);
    this.#move(other, a, 1);
  }

  #fillsLineUps(): boolean {
    const posts = this.#posts;
    if (posts.length === 0) return true;
    const players = this.#slots.flatMap((slot) => (this.#waiting.entrants[slot] as Entrant).players);
    return this.#split(this.#sideOf).every((side) => {
      const own = side.map((n) => players[n] as EntrantPlayer);
      return postsFilled(own, posts) === posts.length;
    });
  }

  /** The side of each player in the best way, counted through all players of the match. */
  sideOf(): number[] {
    const sides = new Array<number>(this.#all);
    for (let n = 0; n < this.#units; n++) {
      const first = this.#first[n] as number;
      const size = this.#size[n] as number;
      for (let player = first; player < first + size; player++) sides[player] = this.#bestSideOf[n] as number;
    }
    return sides;
  }

  #split(sideOf: Uint8Array): number[][] {
    const sides: number[][] = Array.from({ length: this.#count }, () => []);
    for (let n = 0; n < this.#units; n++) {
      const first = this.#first[n] as number;
      const size = this.#size[n] as number;
      for (let player = first; player < first + size; player++) sides[sideOf[n] as number]?.push(player);
    }
    return sides;
  }
}

function moved<Numbers extends Float64Array | Uint8Array>(from: Numbers, to: Numbers): Numbers {
  to.set(from);
  return to;
}
