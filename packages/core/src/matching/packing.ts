import type { MatchRules } from "./rules.ts";

const KEYS_MAX = 65_536;
/** So many compositions of a line are remembered. */
const AVAILABLE_MAX = 256;
/** So many keys of each are looked up without a map. */
const COMPLETIONS_KEPT = 4_096;
const COMPLETIONS_MAX = 2_000;

/** One size of match that is aimed at: how many players in all, and how they may be put into sides. */
export class Packing {
  readonly players: number;
  /** What a party of each size adds to the key of a set of parties. */
  readonly radix: readonly number[];
  /** How many keys there are. */
  readonly keys: number;
  /** Players of each side. */
  readonly min: number;
  readonly max: number;
  readonly #count: number;
  readonly #together: boolean;
  readonly #digits: readonly number[];
  /** By key: 0 not known yet, 1 fits, 2 does not. A map where the keys would fill too much memory. */
  readonly #known: Uint8Array;
  readonly #others = new Map<number, boolean>();
  readonly #completions = new Map<number, Completions>();
  #tries = 0;
  /** Ways that were tried since it was made. */
  work = 0;

  constructor(
    players: number,
    sides: { readonly count: number; readonly min: number; readonly max: number },
    party: MatchRules["party"],
  ) {
    this.players = players;
    this.min = sides.min;
    this.max = sides.max;
    this.#count = sides.count;
    this.#together = party.together;
    // A key is a number with one digit for each party size: how many parties of that size there are.
    const digits = Array.from({ length: party.max }, (_, n) => Math.floor(players / (n + 1)) + 1);
    this.#digits = digits;
    let weight = 1;
    this.radix = [
      0,
      ...digits.map((digit) => {
        const own = weight;
        weight *= digit;
        return own;
      }),
    ];
    this.keys = weight;
    this.#known = new Uint8Array(Math.min(weight, KEYS_MAX));
  }

  /** Whether parties of these sizes fit into the sides, with room for more or as they are. */
  fits(key: number): boolean {
    const known = this.#known[key];
    if (known === 1 || !this.#together) return true;
    if (known === 2) return false;
    const fits = this.#others.get(key) ?? this.#work(key);
    if (key < KEYS_MAX) this.#known[key] = fits ? 1 : 2;
    else this.#others.set(key, fits);
    return fits;
  }

  /**
   * The key of as many parties of each size as there are, by size; more than a match can hold count as so many. One party
   * of the size `own` is added to them.
   */
  keyOf(counts: Int32Array | readonly number[], own = 0): number {
    let key = 0;
    for (let size = 1; size <= this.#digits.length; size++) {
      const count = (counts[size] as number) + (size === own ? 1 : 0);
      key += Math.min(count, (this.#digits[size - 1] as number) - 1) * (this.radix[size] as number);
    }
    return key;
  }

  /** What can become a whole match while there are so many parties of each size. Asked once for all sets of a search. */
  completionsOf(available: number): Completions {
    let completions = this.#completions.get(available);
    if (completions === undefined) {
      if (this.#completions.size >= AVAILABLE_MAX) this.#completions.clear();
      completions = new Completions(this, available);
      this.#completions.set(available, completions);
    }
    return completions;
  }

  /** Works out whether a set can be completed with others of those there are, its own included. */
  complete(key: number, available: number): boolean {
    if (!this.#together) return true;
    this.#tries = 0;
    const can = this.#complete(this.#countsOf(key), this.#countsOf(available), this.#digits.length);
    this.work += this.#tries;
    return can;
  }

  /** Parties of each size, by size. */
  #countsOf(key: number): number[] {
    const counts = [0];
    let rest = key;
    for (const digit of this.#digits) {
      counts.push(rest % digit);
      rest = Math.floor(rest / digit);
    }
    return counts;
  }

  /** Adds parties of at most a size, the largest first. Where too many ways would have to be tried it is taken for possible. */
  #complete(counts: number[], available: readonly number[], size: number): boolean {
    const players = counts.reduce((sum, count, n) => sum + count * n, 0);
    if (players === this.players) return this.fits(this.keyOf(counts));
    if (players > this.players || size === 0) return false;
    this.#tries += 1;
    if (this.#tries > COMPLETIONS_MAX) return true;
    const have = counts[size] as number;
    if (have < (available[size] as number) && players + size <= this.players) {
      counts[size] = have + 1;
      const can = this.#complete(counts, available, size);
      counts[size] = have;
      if (can) return true;
    }
    return this.#complete(counts, available, size - 1);
  }

  #work(key: number): boolean {
    const sizes: number[] = [];
    let rest = key;
    for (const [n, digit] of this.#digits.entries()) {
      for (let times = rest % digit; times > 0; times--) sizes.push(n + 1);
      rest = Math.floor(rest / digit);
    }
    sizes.sort((a, b) => b - a);
    const isWhole = sizes.reduce((sum, size) => sum + size, 0) === this.players;
    return canPack(sizes, { count: this.#count, min: this.min, max: this.max }, isWhole);
  }
}

/**
 * Which sets of parties fit into the sides and can become a whole match with others of those there are. Where a set
 * cannot, as with nothing but pairs for sides of three, nothing has to be searched.
 */
export class Completions {
  readonly #packing: Packing;
  readonly #available: number;
  /** By key: 0 not known yet, 1 can, 2 cannot. Keys beyond it are in the map. */
  readonly #known: Uint8Array;
  readonly #others = new Map<number, boolean>();

  constructor(packing: Packing, available: number) {
    this.#packing = packing;
    this.#available = available;
    this.#known = new Uint8Array(Math.min(packing.keys, COMPLETIONS_KEPT));
  }

  can(key: number): boolean {
    const known = this.#known[key];
    return known === 1 || (known !== 2 && this.#work(key));
  }

  #work(key: number): boolean {
    let can = this.#others.get(key);
    if (can !== undefined) return can;
    can = this.#packing.fits(key) && this.#packing.complete(key, this.#available);
    if (key < this.#known.length) this.#known[key] = can ? 1 : 2;
    else this.#others.set(key, can);
    return can;
  }
}

/** Beyond so many steps an arrangement that was not found counts as none; sides of a few dozen stay far below it. */
const STEPS_MAX = 20_000;

/** Whether sizes, the largest first, go into `count` sides of at most `most`; when whole, also of at least `min`. */
function canPack(
  sizes: readonly number[],
  { count, min, max }: { count: number; min: number; max: number },
  isWhole: boolean,
): boolean {
  const filled = new Array<number>(count).fill(0);
  let steps = 0;
  const place = (n: number): boolean => {
    const size = sizes[n];
    if (size === undefined) return !isWhole || filled.every((players) => players >= min);
    steps += 1;
    if (steps > STEPS_MAX) return false;
    const tried = new Set<number>();
    for (let side = 0; side < count; side++) {
      const players = filled[side] ?? 0;
      if (players + size > max || tried.has(players)) continue;
      tried.add(players);
      filled[side] = players + size;
      if (place(n + 1)) return true;
      filled[side] = players;
    }
    return false;
  };
  return place(0);
}

/** The match sizes that rules allow when sides of `min` will do, the largest first. */
export function packingsOf({ sides, party }: MatchRules, min: number): Packing[] {
  const { count, max, uneven } = sides;
  const packings: Packing[] = [];
  if (uneven) {
    for (let players = count * max; players >= count * min; players--) {
      packings.push(new Packing(players, { count, min, max }, party));
    }
  } else {
    for (let each = max; each >= min; each--) {
      packings.push(new Packing(count * each, { count, min: each, max: each }, party));
    }
  }
  return packings;
}

/** Players of each side that will do for the match of a ticket that has waited so long. */
export function fewestAt({ sides, fewer }: MatchRules, waitedMs: number): number {
  let { min } = sides;
  for (const step of fewer) if (waitedMs >= step.afterMs) min = Math.min(min, step.min);
  return min;
}
