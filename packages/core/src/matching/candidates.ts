import { strideOf } from "./columns.ts";
import { type Entrant, wantEachOther } from "./entrant.ts";
import { ANY_SIZE, type Line } from "./line.ts";
import type { MatchRules } from "./rules.ts";
import type { Row, Waiting } from "./waiting.ts";

/** Candidates looked at beside each other. More of them do not make a match better. */
export const CANDIDATES_MAX = 1_024;

/** What holding a need against a ticket costs, in tickets looked at. */
export const WANT_WORK = 4;

/** So many tickets of any size are taken each way before each size is gone through by itself. */
const ANY_TAKEN = 16;

/** Candidates passed over, each way, for each one that is taken. */
const PASSED_OVER = 8;

/** What a ticket stands at by itself, and what it accepts. */
export interface Stand {
  readonly lowest: Float64Array;
  readonly floor: Float64Array;
  readonly ceiling: Float64Array;
}

/**
 * The candidates for a match with one ticket, the nearest by the first number first, their figures side by side. They
 * are found by walks through its line, to the left and to the right of where it stands: first two for all tickets, and
 * when nothing comes of them two for each party size, so that a rare size is found among many of another.
 */
export class Candidates {
  count = 0;
  /** Tickets looked at since it was made, whether they were taken or not; those that ask much of others count for more. */
  looks = 0;
  /** Candidates of each party size. */
  readonly ofSize: Int32Array;
  /** Whether there may be more than were taken. */
  isCutShort = false;
  readonly slots = new Int32Array(CANDIDATES_MAX);
  readonly far = new Float64Array(CANDIDATES_MAX);
  readonly sizes = new Uint8Array(CANDIDATES_MAX);
  readonly regions = new Int32Array(CANDIDATES_MAX);
  readonly numbers: Float64Array;
  readonly gaps: Float64Array;
  readonly #rules: MatchRules;
  readonly #waiting: Waiting;
  readonly #stand: Stand;
  readonly #stride: number;
  readonly #weight: number;
  #walks = 0;
  /** Position of the next candidate of each walk, and how far off it is; infinite at the end. */
  readonly #nextAt: Int32Array;
  readonly #nextFar: Float64Array;
  readonly #walkSize: Int32Array;
  /** How many more may be taken, and looked at. */
  readonly #mayTake: Int32Array;
  readonly #mayLook: Int32Array;
  #anchor: Row | undefined;
  #line: Line | undefined;
  #position = 0;
  #anchorRegions = 0;
  #among: ((slot: number) => boolean) | undefined;

  constructor(rules: MatchRules, waiting: Waiting, stand: Stand, weight: number) {
    this.#rules = rules;
    this.#waiting = waiting;
    this.#stand = stand;
    this.#weight = weight;
    this.#stride = strideOf(rules);
    const walks = 2 * rules.party.max;
    this.ofSize = new Int32Array(rules.party.max + 1);
    this.#nextAt = new Int32Array(walks);
    this.#nextFar = new Float64Array(walks);
    this.#walkSize = new Int32Array(walks);
    this.#mayTake = new Int32Array(walks);
    this.#mayLook = new Int32Array(walks);
    this.numbers = new Float64Array(CANDIDATES_MAX * this.#stride);
    this.gaps = new Float64Array(CANDIDATES_MAX * this.#stride);
  }

  /** Begins anew, for another ticket or out of others. */
  standAt(anchor: Row, position: number, regions: number, among: ((slot: number) => boolean) | undefined): void {
    this.#anchor = anchor;
    this.#line = anchor.line;
    this.#position = position;
    this.#anchorRegions = regions;
    this.#among = among;
    this.isCutShort = false;
    this.#empty();
  }

  #empty(): void {
    this.count = 0;
    // A handful of numbers: faster so than by a call.
    for (let size = 0; size < this.ofSize.length; size++) this.ofSize[size] = 0;
  }

  walkAny(): void {
    this.#walks = 0;
    this.#openWalks(ANY_SIZE, ANY_TAKEN);
  }

  /** Begins again, size by size: with so many players still missing, so many more taken than a match can hold. */
  walkEach(room: number, slack: number): void {
    this.isCutShort = false;
    this.#empty();
    this.#walks = 0;
    const sizes = Math.min(room, this.#rules.party.max);
    for (let size = 1; size <= sizes; size++) this.#openWalks(size, Math.floor(room / size) + slack);
  }

  #openWalks(size: number, each: number): void {
    const line = this.#line as Line;
    const walk = this.#walks;
    this.#walks = walk + 2;
    for (let n = walk; n < walk + 2; n++) {
      this.#walkSize[n] = size;
      this.#mayTake[n] = each;
      this.#mayLook[n] = each * PASSED_OVER;
    }
    this.#stepTo(line, walk, line.left(size, this.#position - 1));
    this.#stepTo(line, walk + 1, line.right(size, this.#position + 1));
  }

  #stepTo(line: Line, walk: number, at: number): void {
    this.#nextAt[walk] = at;
    this.#nextFar[walk] =
      at < 0 || at >= line.length
        ? Number.POSITIVE_INFINITY
        : Math.abs((line.numbers[at * this.#stride] as number) - (this.#stand.lowest[0] as number));
  }

  /** Takes the nearest candidates, up to `many` in all, and no further than a better match could reach. */
  collect(many: number, best: number): void {
    const line = this.#line as Line;
    // Fields are read once: this loop is most of what a pass takes.
    const nextAt = this.#nextAt;
    const nextFar = this.#nextFar;
    const mayTake = this.#mayTake;
    const mayLook = this.#mayLook;
    const walks = this.#walks;
    const weight = this.#weight;
    const widest = Math.min((this.#stand.ceiling[0] as number) - (this.#stand.lowest[0] as number), best / weight);
    const max = Math.min(many, CANDIDATES_MAX);
    while (this.count < max) {
      let walk = 0;
      let far = nextFar[0] as number;
      for (let n = 1; n < walks; n++) {
        const other = nextFar[n] as number;
        if (other < far) {
          far = other;
          walk = n;
        }
      }
      if (!(far <= widest) || far === Number.POSITIVE_INFINITY) return;
      const at = nextAt[walk] as number;
      if (mayTake[walk] === 0 || mayLook[walk] === 0) {
        this.isCutShort = true;
        nextFar[walk] = Number.POSITIVE_INFINITY;
        continue;
      }
      mayLook[walk] = (mayLook[walk] as number) - 1;
      this.looks += 1;
      if (this.#fits(line, at, far)) {
        this.#add(line, at, far * weight);
        mayTake[walk] = (mayTake[walk] as number) - 1;
      }
      const size = this.#walkSize[walk] as number;
      this.#stepTo(line, walk, (walk & 1) === 1 ? line.right(size, at + 1) : line.left(size, at - 1));
    }
    if (this.count === CANDIDATES_MAX) this.isCutShort = true;
  }

  /** Whether a candidate and the anchor could be in one match. */
  #fits(line: Line, at: number, far: number): boolean {
    const stride = this.#stride;
    line.refresh(at);
    if (far > (line.gaps[at * stride] as number)) return false;
    if (((line.regions[at] as number) & this.#anchorRegions) === 0) return false;
    for (let n = 1; n < stride; n++) {
      const number = line.numbers[at * stride + n] as number;
      if (number < (this.#stand.floor[n] as number) || number > (this.#stand.ceiling[n] as number)) return false;
      if (Math.abs(number - (this.#stand.lowest[n] as number)) > (line.gaps[at * stride + n] as number)) return false;
    }
    if (this.#among === undefined && !this.#waiting.hasWants) return true;
    const slot = line.slots[at] as number;
    if (this.#among !== undefined && !this.#among(slot)) return false;
    const [one, other] = [(this.#anchor as Row).entrant, this.#waiting.entrants[slot] as Entrant];
    this.looks += WANT_WORK * (one.wants.length + other.wants.length);
    return wantEachOther(one, other);
  }

  #add(line: Line, at: number, far: number): void {
    const n = this.count;
    const stride = this.#stride;
    this.slots[n] = line.slots[at] as number;
    this.far[n] = far;
    const size = line.sizes[at] as number;
    this.sizes[n] = size;
    this.ofSize[size] = (this.ofSize[size] as number) + 1;
    this.regions[n] = line.regions[at] as number;
    for (let d = 0; d < stride; d++) {
      this.numbers[n * stride + d] = line.numbers[at * stride + d] as number;
      this.gaps[n * stride + d] = line.gaps[at * stride + d] as number;
    }
    this.count = n + 1;
  }
}
