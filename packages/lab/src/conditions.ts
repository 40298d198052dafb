import type { Match, QueueRules } from "@yellow-harbor/core";
import { randomExponential, randomLogNormal } from "d3-random";
import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { z } from "zod";

const Share = z.number().min(0).max(1);

/** What the traffic meets: how many matches can be played at once, and what players do once they are matched. */
export const Conditions = z.strictObject({
  capacity: z
    .strictObject({
      instances: z
        .int()
        .min(0)
        .max(1e6)
        .optional()
        .meta({ description: "Instances in all; any number when left out, unless byRegion names some." }),
      byRegion: z.record(z.string(), z.int().min(0).max(1e6)).optional().meta({ description: "Instances by region." }),
      roomsEach: z.int().min(1).max(1_000).default(1).meta({ description: "Matches on an instance at once." }),
      playS: z
        .strictObject({ median: z.number().positive().default(600), spread: z.number().min(0).max(2).default(0.3) })
        .prefault({})
        .meta({ description: "How long a match holds its place: log-normal." }),
    })
    .optional(),
  confirm: z
    .strictObject({
      declines: Share.default(0.03),
      silent: Share.default(0.02),
      answerS: z.number().positive().default(3).meta({ description: "Mean time until a player answers: exponential." }),
    })
    .prefault({})
    .meta({ description: "What each player does when asked to confirm, where the queue asks." }),
  noShows: Share.default(0).meta({ description: "Share of the players of a match who do not come to it." }),
});
export type Conditions = z.output<typeof Conditions>;

/** What becomes of the players of a match that was made. */
export interface Answers {
  /** When it is known, in milliseconds after it was made. */
  readonly afterMs: number;
  /** Places of the players, counted through the match, who let it go. */
  readonly letGo: ReadonlySet<number>;
}

/** Draws what players do and how long they play. The same conditions, seed and order of questions give the same answers. */
export class Draws {
  readonly #conditions: Conditions;
  readonly #chance: () => number;

  constructor(conditions: Conditions, seed: number) {
    const rng = xoroshiro128plus(seed);
    this.#conditions = conditions;
    this.#chance = () => uniformFloat64(rng);
  }

  answers({ confirm }: QueueRules, players: number): Answers {
    if (confirm === null) return { afterMs: 0, letGo: new Set() };
    const { declines, silent, answerS } = this.#conditions.confirm;
    const letGo = new Set<number>();
    let afterMs = 0;
    let firstNoMs = Number.POSITIVE_INFINITY;
    for (let player = 0; player < players; player++) {
      const what = this.#chance();
      const answerMs = Math.round(1_000 * randomExponential.source(this.#chance)(1 / answerS)());
      const isSilent = what < silent || answerMs > confirm.withinMs;
      const isNo = !isSilent && what < silent + declines;
      if (isSilent || isNo) letGo.add(player);
      if (isNo) firstNoMs = Math.min(firstNoMs, answerMs);
      afterMs = Math.max(afterMs, isSilent ? confirm.withinMs : answerMs);
    }
    return { afterMs: Math.min(afterMs, firstNoMs), letGo };
  }

  /** Whether somebody of a match does not come. */
  isShort(players: number): boolean {
    let isShort = false;
    for (let player = 0; player < players; player++) isShort = this.#chance() < this.#conditions.noShows || isShort;
    return isShort;
  }

  playMs(): number {
    const { median = 600, spread = 0 } = this.#conditions.capacity?.playS ?? {};
    return Math.round(1_000 * median * randomLogNormal.source(this.#chance)(0, spread)());
  }
}

/** Places to play, by region where that is said. */
export class Places {
  readonly #all: number;
  readonly #byRegion: readonly number[] | undefined;
  readonly #regions: readonly string[];
  #held: { readonly region: string | null; readonly untilMs: number }[] = [];

  constructor(capacity: NonNullable<Conditions["capacity"]>, regions: readonly string[]) {
    const { instances, byRegion, roomsEach } = capacity;
    const inRegions = byRegion && regions.map((region) => (byRegion[region] ?? 0) * roomsEach);
    this.#regions = regions;
    this.#byRegion = regions.length === 0 ? undefined : inRegions;
    const sum = byRegion && Object.values(byRegion).reduce((all, many) => all + many, 0);
    this.#all = (instances ?? sum ?? Number.POSITIVE_INFINITY) * roomsEach;
  }

  /** How many matches can be played now, in all and in each region. */
  left(nowMs: number): { readonly max: number; readonly rooms: readonly number[] | undefined } {
    this.#held = this.#held.filter(({ untilMs }) => untilMs > nowMs);
    const heldIn = (region: string) => this.#held.filter((one) => one.region === region).length;
    const rooms = this.#byRegion?.map((many, n) => Math.max(0, many - heldIn(this.#regions[n] ?? "")));
    const max = Math.max(0, this.#all - this.#held.length);
    return { max: rooms?.every((many) => many === 0) ? 0 : max, rooms };
  }

  hold({ region }: Pick<Match, "region">, untilMs: number): void {
    this.#held.push({ region, untilMs });
  }

  get isHeld(): boolean {
    return this.#held.length > 0;
  }
}
