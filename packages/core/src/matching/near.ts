import type { Line } from "./line.ts";
import type { Packing } from "./packing.ts";
import type { MatchRules } from "./rules.ts";

/** So many parties of each size are looked at to see whether there are enough near. */
const LOOKS_MAX = 40;

/** Where a search begins, and how far it reaches by the first number, each way. */
export interface Middle {
  readonly line: Line;
  readonly position: number;
  readonly widest: number;
}

/**
 * Whether the parties within reach of a ticket could make a match with it at all, by their sizes. With nothing but pairs
 * near, sides of three are known to be impossible at once, instead of after a search for a single one further off.
 */
export class Near {
  /** What was looked at since it was made. */
  looks = 0;
  readonly #counts: Int32Array;
  readonly #sizes: number;
  readonly #together: boolean;

  constructor({ party }: MatchRules) {
    this.#counts = new Int32Array(party.max + 1);
    this.#sizes = party.max;
    this.#together = party.together;
  }

  isEnough(packing: Packing, middle: Middle, key: number): boolean {
    if (this.#sizes === 1 || !this.#together) return true;
    const own = middle.line.sizes[middle.position] as number;
    const room = packing.players - own;
    for (let size = 1; size <= this.#sizes; size++) this.#counts[size] = this.#count(middle, size, room / size);
    return packing.completionsOf(packing.keyOf(this.#counts, own)).can(key);
  }

  /** How many parties of a size would have the ticket, up to so many. Where many would not it is left at that: there may be enough. */
  #count({ line, position, widest }: Middle, size: number, max: number): number {
    const { stride } = line;
    const middle = line.numbers[position * stride] as number;
    let count = 0;
    let looks = 0;
    for (const step of [1, -1]) {
      for (let at = position; count < max && looks <= LOOKS_MAX; ) {
        at = step > 0 ? line.right(size, at + 1) : line.left(size, at - 1);
        if (at < 0 || at >= line.length) break;
        const far = step * ((line.numbers[at * stride] as number) - middle);
        if (far > widest) break;
        looks += 1;
        line.refresh(at);
        if (far <= (line.gaps[at * stride] as number)) count += 1;
      }
    }
    this.looks += looks;
    return looks > LOOKS_MAX ? max : count;
  }
}
