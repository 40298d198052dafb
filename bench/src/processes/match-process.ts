// Passes of the matcher, in milliseconds, and what they are held against.
import { type Entrant, entrantOf, MatchPool, PASS_SLICE, type QueueRules } from "@yellow-harbor/core";
import { generate, TrafficPlan } from "@yellow-harbor/lab";
import { exactSpread, lowestSpread, poolsOfFew } from "./match-exact.ts";

const SEED = 20_311;

/** What nothing on the event loop is to last longer than, in milliseconds. */
const SLICE_MS = 10;

const rulesWith = (gap: QueueRules["match"]["closeness"][number]["gap"]): QueueRules => ({
  title: "Crews",
  lobby: "quayside",
  roomKind: "crews",
  searchMs: null,
  vouched: [],
  passEveryMs: 500,
  confirm: null,
  whenLeft: "play-on",
  rating: null,
  leavers: null,
  backfill: { withinMs: 60_000, max: 4 },
  match: {
    sides: { count: 2, min: 3, max: 3, uneven: false },
    party: { max: 3, together: true },
    needs: [{ attribute: "build", must: "equal" }],
    closeness: [{ attribute: "skill", gap, party: "mean", weight: 1 }],
    latency: {
      regions: ["north-quay", "south-quay", "far-light"],
      ceilingMs: [
        [0, 60],
        [30, 110],
      ],
    },
    lineUp: null,
    fewer: [],
    choose: { by: "oldest" },
    prefer: [],
    priority: null,
  },
});

const loosening = rulesWith([
  [0, 60],
  [20, 150],
  [60, 400],
]);

/** Nobody fits at first, so that all of them wait. */
const fromNothing = rulesWith([
  [0, 0],
  [60, 400],
]);

const SECONDS = 30;
const NOW_MS = SECONDS * 1_000;

/** So many tickets that came within half a minute. No two have the same skill. */
function entrantsOf(queue: QueueRules, many: number, { allAt }: { allAt?: number } = {}): Entrant[] {
  const rate = (many * 60 * 1.1) / SECONDS;
  const plan = TrafficPlan.parse({ minutes: SECONDS / 60, perMinute: [[0, rate]], cancels: { share: 0 } });
  const tickets = generate(queue, plan, SEED).slice(0, many);
  return tickets.flatMap(({ ticket, at, players, attributes }, n) => {
    const told = players.map((player) => {
      const skill = player.attributes?.["skill"];
      return {
        ...player,
        attributes: { skill: (typeof skill === "number" ? skill : 0) + ((n * 7_919) % many) / many },
      };
    });
    const entered = entrantOf(queue.match, {
      ticket,
      sinceMs: allAt ?? Math.round(at * 1_000),
      players: told,
      attributes,
    });
    return "entrant" in entered ? [entered.entrant] : [];
  });
}

function poolOf(queue: QueueRules, entrants: readonly Entrant[], nowMs: number): MatchPool {
  const pool = new MatchPool(queue.match);
  for (const entrant of entrants) pool.add(entrant);
  // As in the service, where tickets come one by one and are brought in at the pass that follows.
  pool.settle(nowMs);
  return pool;
}

function timed(work: () => void): number {
  const startedMs = performance.now();
  work();
  return performance.now() - startedMs;
}

const known = new Map<number, Entrant[]>();

function fullPass(many: number): number {
  const entrants = known.get(many) ?? entrantsOf(loosening, many);
  known.set(many, entrants);
  const pool = poolOf(loosening, entrants, NOW_MS);
  return timed(() => pool.pass(NOW_MS));
}

function sorting(many: number): number {
  const entrants = known.get(many) ?? entrantsOf(loosening, many);
  known.set(many, entrants);
  const objects = entrants.map(({ party, numbers }) => ({ ticket: party.ticket, skill: numbers[0] ?? 0 }));
  return timed(() => objects.sort((a, b) => a.skill - b.skill));
}

/** 1,000 come half a second after 100,000 others, who have been looked at and wait. */
function step(many: number, isFull: boolean): number {
  const pool = poolOf(fromNothing, entrantsOf(fromNothing, many, { allAt: 0 }), 0);
  pool.pass(0);
  for (const entrant of entrantsOf(loosening, 1_000, { allAt: 500 })) pool.add(entrant);
  return timed(() => pool.pass(500, isFull ? { examinedAgain: Number.POSITIVE_INFINITY } : {}));
}

/** Whatever fits is made, and of the ways to do so the one with the lowest scores. */
const byPrice: QueueRules = {
  ...loosening,
  match: { ...loosening.match, choose: { by: "price", allowance: [[0, 10_000]] } },
};

function quality(isExact: boolean): number {
  const pools = poolsOfFew(loosening, SEED, { many: 400, players: 12 });
  const spreads = pools.flatMap((entrants) =>
    isExact ? exactSpread(loosening.match, entrants, NOW_MS) : ownSpread(entrants),
  );
  return mean(spreads);
}

/** The widest gap that the rules ever allow: what is counted for a match that could have been made as well. */
const MISSED_POINTS = 400;

/** Sum of spreads by price, of a pool of up to so many players; a match that is missing counts too. */
function qualityByPrice(players: number, isExact: boolean): number {
  const pools = poolsOfFew(byPrice, SEED, { many: players > 12 ? 60 : 400, players });
  const sums = pools.map((entrants) => {
    const lowest = lowestSpread(byPrice.match, entrants, NOW_MS);
    const spreads = isExact ? lowest : ownSpread(entrants, byPrice);
    return sumOf(spreads) + MISSED_POINTS * (lowest.length - spreads.length);
  });
  return mean(sums);
}

const sumOf = (numbers: readonly number[]) => numbers.reduce((sum, number) => sum + number, 0);
const mean = (numbers: readonly number[]) => sumOf(numbers) / numbers.length;

const ownSpread = (entrants: readonly Entrant[], queue = loosening) =>
  poolOf(queue, entrants, NOW_MS)
    .pass(NOW_MS)
    .matches.map(({ score }) => score);

/** The longest slice of the matcher on 1,000 tickets of which four in five are pairs, three against three, over a minute. */
function longestSlice(): number {
  const pool = new MatchPool(loosening.match);
  for (const entrant of mostlyPairs(1_000)) pool.add(entrant);
  let longestMs = 0;
  for (let nowMs = NOW_MS; nowMs <= NOW_MS + 60_000; nowMs += 5_000) {
    for (let hasMore = true; hasMore; ) {
      longestMs = Math.max(
        longestMs,
        timed(() => {
          hasMore = pool.pass(nowMs, PASS_SLICE).hasMore;
        }),
      );
    }
  }
  return longestMs;
}

function mostlyPairs(many: number): Entrant[] {
  const latencyMs = { "north-quay": 20, "south-quay": 30, "far-light": 40 };
  return Array.from({ length: many }, (_, n) => {
    const skill = (n * 7_919) % 1_500;
    const players = Array.from({ length: n % 5 === 0 ? 1 : 2 }, (_, at) => ({
      id: `p${n}.${at}`,
      latencyMs,
      attributes: { skill: skill + at, build: "1" },
    }));
    const entered = entrantOf(loosening.match, { ticket: `t${n}`, sinceMs: (n * 29) % NOW_MS, players });
    if ("refused" in entered) throw new Error(entered.refused.detail);
    return entered.entrant;
  });
}

interface Question {
  readonly what:
    | "pass"
    | "sort"
    | "step"
    | "full-step"
    | "quality"
    | "exact-quality"
    | "by-price"
    | "lowest"
    | "slice"
    | "slice-goal";
  readonly tickets?: number;
  readonly players?: number;
}

function answer({ what, tickets = 0, players = 12 }: Question): number {
  switch (what) {
    case "pass":
      return fullPass(tickets);
    case "sort":
      return sorting(tickets);
    case "step":
    case "full-step":
      return step(tickets, what === "full-step");
    case "slice":
      return longestSlice();
    case "slice-goal":
      return SLICE_MS;
    case "by-price":
    case "lowest":
      return qualityByPrice(players, what === "lowest");
    default:
      return quality(what === "exact-quality");
  }
}

process.on("message", (question: Question) => process.send?.({ value: answer(question) }));
