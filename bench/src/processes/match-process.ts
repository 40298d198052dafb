// Passes of the matcher, in milliseconds, and what they are held against.
import { type Entrant, entrantOf, MatchPool, PASS_SLICE, type QueueRules } from "@yellow-harbor/core";
import { generate, TrafficPlan } from "@yellow-harbor/lab";
import { exactSpread, poolsOfFew } from "./match-exact.ts";

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

function quality(isExact: boolean): number {
  const pools = poolsOfFew(loosening, SEED, 400);
  const spreads = pools.flatMap((entrants) =>
    isExact ? exactSpread(loosening.match, entrants, NOW_MS) : ownSpread(entrants),
  );
  return spreads.reduce((sum, spread) => sum + spread, 0) / spreads.length;
}

const ownSpread = (entrants: readonly Entrant[]) =>
  poolOf(loosening, entrants, NOW_MS)
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
  readonly what: "pass" | "sort" | "step" | "full-step" | "quality" | "exact-quality" | "slice" | "slice-goal";
  readonly tickets?: number;
}

function answer({ what, tickets = 0 }: Question): number {
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
    default:
      return quality(what === "exact-quality");
  }
}

process.on("message", (question: Question) => process.send?.({ value: answer(question) }));
