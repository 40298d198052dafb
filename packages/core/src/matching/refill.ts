import { WANT_WORK } from "./candidates.ts";
import { valueAt } from "./curve.ts";
import { type Entrant, entrantOf, wantEachOther } from "./entrant.ts";
import { type MatchQuality, qualityOf } from "./match.ts";
import type { MatchPool } from "./pool.ts";
import { postsFilled, postsOf, rolesTaken } from "./posts.ts";
import type { SearchingParty } from "./rules.ts";
import type { Row } from "./waiting.ts";

/** A match that is being played, with places free. */
export interface Gap {
  /** Who plays, party by party; all as patient as if they had waited since the place is free. */
  readonly parties: readonly SearchingParty[];
  readonly sinceMs: number;
  /** Where it is played. */
  readonly region: string | null;
  /** Free places of each side. */
  readonly free: readonly number[];
  /** Who plays on each side, by id. */
  readonly playing: readonly (readonly string[])[];
  /** The role that each of them has, by id, where the rules have a line-up: it keeps it, and who has none gets none. */
  readonly roles: ReadonlyMap<string, string>;
  /** Players it takes at the most. */
  readonly max: number;
}

export interface Refill {
  readonly found: JoiningPlayers | undefined;
  /** Tickets that were looked at or held against each other. */
  readonly work: number;
}

export interface JoiningPlayers {
  readonly rows: readonly Row[];
  /** Ids of the players who come to each side. */
  readonly sides: readonly (readonly string[])[];
  readonly quality: MatchQuality;
  /** The role that each of them takes, by id, where the rules have a line-up. */
  readonly roles: Readonly<Record<string, string>> | undefined;
}

/** More candidates than this are not looked at for one match. */
const EXAMINED = 2_000;
/** Nor are more of them held against those who are in it, its needs counted as many times as they cost. */
const WORK_MAX = 25_000;

/**
 * Who of a pool could come into a match that is being played: of all that fit everybody in it the longest waiting, then of
 * those that fit these as well the next, until no place is free.
 */
export function refillOf(pool: MatchPool, gap: Gap, nowMs: number): Refill {
  const { rules } = pool;
  const together = gap.parties.flatMap((party) => {
    const entered = entrantOf(rules, { ...party, sinceMs: gap.sinceMs });
    return "refused" in entered ? [] : [entered.entrant];
  });
  const [first] = together;
  if (!first) return { found: undefined, work: 1 };
  const seats = new Seats(pool, gap, together);
  const rows: Row[] = [];
  const candidates = candidatesOf(pool, together, nowMs);
  let work = 1 + candidates.length;
  for (const row of candidates) {
    if (seats.left === 0 || work > WORK_MAX) break;
    const { entrant } = row;
    work += together.length + WANT_WORK * together.length * entrant.wants.length;
    if (!isNear(entrant, gap.region, pool, nowMs)) continue;
    if (!together.every((one) => goTogether(pool, one, entrant, nowMs))) continue;
    if (!shareLists([...together, entrant]) || !seats.take(entrant)) continue;
    together.push(entrant);
    rows.push(row);
  }
  if (rows.length === 0) return { found: undefined, work };
  const quality = qualityOf(
    rules,
    {
      entrants: together,
      region: gap.region,
      regions: [],
      sideOf: seats.sideOf(together),
      score: scoreOf(pool, together),
    },
    nowMs,
  );
  const waits = rows.map((row) => (nowMs - row.sinceMs) / 1_000);
  const meanWaitS = waits.reduce((sum, wait) => sum + wait, 0) / waits.length;
  const felt = { ...quality, longestWaitS: Math.max(...waits), meanWaitS };
  return { found: { rows, sides: seats.joiningPlayers, quality: felt, roles: seats.rolesOfJoining() }, work };
}

/** Those near enough by the first number, the longest waiting first. */
function candidatesOf(pool: MatchPool, together: readonly Entrant[], nowMs: number): Row[] {
  const [closeness] = pool.rules.closeness;
  const { key } = together[0] as Entrant;
  if (!closeness) return pool.within(key, [-Infinity, Infinity], EXAMINED);
  const numbers = together.map((one) => one.numbers[0] ?? 0);
  const reach = Math.min(...together.map((one) => gapOf(pool, one, 0, nowMs)));
  return pool.within(key, [Math.max(...numbers) - reach, Math.min(...numbers) + reach], EXAMINED);
}

const waitOf = ({ party }: Entrant, nowMs: number) => (nowMs - party.sinceMs) / 1_000;

const gapOf = ({ rules }: MatchPool, one: Entrant, n: number, nowMs: number): number => {
  const closeness = rules.closeness[n];
  return closeness ? valueAt(closeness.gap, waitOf(one, nowMs)) : Number.POSITIVE_INFINITY;
};

/** Whether two accept each other, each by its own wait. */
function goTogether(pool: MatchPool, one: Entrant, other: Entrant, nowMs: number): boolean {
  const isClose = pool.rules.closeness.every((_, n) => {
    const apart = Math.abs((one.numbers[n] ?? 0) - (other.numbers[n] ?? 0));
    return apart <= gapOf(pool, one, n, nowMs) && apart <= gapOf(pool, other, n, nowMs);
  });
  return isClose && one.key === other.key && wantEachOther(one, other);
}

function isNear(entrant: Entrant, region: string | null, { rules: { latency } }: MatchPool, nowMs: number): boolean {
  if (latency === null) return true;
  const at = latency.regions.indexOf(region ?? "");
  return at >= 0 && (entrant.latencies[at] ?? Infinity) <= valueAt(latency.ceilingMs, waitOf(entrant, nowMs));
}

const shareLists = (all: readonly Entrant[]): boolean =>
  (all[0]?.lists ?? []).every((list, n) =>
    list.some((entry) => all.every((one) => one.listSets[n]?.has(entry) === true)),
  );

const scoreOf = ({ rules }: MatchPool, all: readonly Entrant[]): number =>
  rules.closeness.reduce((score, { weight }, n) => {
    const numbers = all.map((one) => one.numbers[n] ?? 0);
    return score + weight * (Math.max(...numbers) - Math.min(...numbers));
  }, 0);

/** The free places of a match, side by side. */
class Seats {
  left: number;
  readonly joiningPlayers: string[][];
  readonly #free: number[];
  readonly #playing: readonly (readonly string[])[];
  readonly #posts: readonly string[];
  readonly #isTogether: boolean;
  readonly #players = new Map<string, Entrant["players"][number]>();

  constructor({ rules }: MatchPool, gap: Gap, present: readonly Entrant[]) {
    this.#free = [...gap.free];
    this.left = Math.min(
      gap.max,
      gap.free.reduce((sum, free) => sum + free, 0),
    );
    this.joiningPlayers = gap.free.map(() => []);
    this.#playing = gap.playing;
    this.#posts = postsOf(rules);
    this.#isTogether = rules.party.together;
    for (const player of present.flatMap(({ players }) => players)) {
      const role = gap.roles.get(player.id);
      const roles = role === undefined ? [] : [role];
      // Of a room that was opened before roles were kept none are known.
      this.#players.set(player.id, gap.roles.size === 0 ? player : { ...player, roles });
    }
  }

  /** The role of each who comes, by id; undefined where the rules have no line-up. */
  rolesOfJoining(): Record<string, string> | undefined {
    if (this.#posts.length === 0) return undefined;
    const taken = this.#playing.flatMap((own, side) => rolesTaken(this.#playersOf(own, side), this.#posts));
    const coming = new Set(this.joiningPlayers.flat());
    return Object.fromEntries(taken.filter(([id]) => coming.has(id)));
  }

  #playersOf(playing: readonly string[], side: number): Entrant["players"][number][] {
    return [...playing, ...(this.joiningPlayers[side] ?? [])].flatMap((id) => this.#players.get(id) ?? []);
  }

  /** Seats a party where most places are free, or says that it cannot be. */
  take({ players }: Entrant): boolean {
    if (players.length > this.left) return false;
    for (const player of players) this.#players.set(player.id, player);
    const groups = this.#isTogether ? [players] : players.map((player) => [player]);
    const placed: { readonly side: number; readonly ids: readonly string[] }[] = [];
    for (const group of groups) {
      const ids = group.map(({ id }) => id);
      const side = this.#sideFor(ids);
      if (side === undefined) {
        for (const one of placed) this.#put(one.side, one.ids, -1);
        return false;
      }
      this.#put(side, ids, 1);
      placed.push({ side, ids });
    }
    this.left -= players.length;
    return true;
  }

  #sideFor(ids: readonly string[]): number | undefined {
    const bySpace = this.#free.map((_, side) => side).sort((a, b) => (this.#free[b] ?? 0) - (this.#free[a] ?? 0));
    return bySpace.find((side) => (this.#free[side] ?? 0) >= ids.length && this.#fillsPosts(side, ids));
  }

  /** Whether the posts of a side that nobody fills can still be filled by those who come later. */
  #fillsPosts(side: number, ids: readonly string[]): boolean {
    if (this.#posts.length === 0) return true;
    const coming = ids.flatMap((id) => this.#players.get(id) ?? []);
    const players = [...this.#playersOf(this.#playing[side] ?? [], side), ...coming];
    const open = this.#posts.length - postsFilled(players, this.#posts);
    return open <= (this.#free[side] ?? 0) - ids.length;
  }

  #put(side: number, ids: readonly string[], sign: 1 | -1): void {
    this.#free[side] = (this.#free[side] ?? 0) - sign * ids.length;
    const joiningPlayers = this.joiningPlayers[side] as string[];
    if (sign > 0) joiningPlayers.push(...ids);
    else joiningPlayers.splice(joiningPlayers.length - ids.length, ids.length);
  }

  /** The side of each player, counted through all players of the match. */
  sideOf(all: readonly Entrant[]): number[] {
    const sides = this.joiningPlayers.map(
      (joiningPlayers, side) => new Set([...(this.#playing[side] ?? []), ...joiningPlayers]),
    );
    return all.flatMap(({ players }) => players).map(({ id }) => sides.findIndex((side) => side.has(id)));
  }
}
