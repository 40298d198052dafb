import { describe, expect, it } from "vitest";
import { base } from "../testing/parties.ts";
import { entrantOf } from "./entrant.ts";
import { MatchPool } from "./pool.ts";
import { refillOf } from "./refill.ts";
import type { MatchRules, SearchingParty, TicketNeed } from "./rules.ts";

const threes: MatchRules = { ...base, needs: [], latency: null };

const byPrice: MatchRules = { ...threes, choose: { by: "price", allowance: [[0, 10_000]] } };

/** Tickets of so many players each, their skills spread over 1,500. */
function poolWith(rules: MatchRules, sizes: readonly number[], needs: readonly TicketNeed[] = []): MatchPool {
  const pool = new MatchPool(rules);
  for (const [n, size] of sizes.entries()) {
    const players = Array.from({ length: size }, (_, at) => {
      return { id: `p${n}.${at}`, attributes: { skill: (n * 7_919) % 1_500, mode: `m${n % 7}` } };
    });
    const party: SearchingParty = { ticket: `t${n}`, sinceMs: 0, players, needs };
    const entered = entrantOf(rules, party);
    if ("refused" in entered) throw new Error(entered.refused.detail);
    pool.add(entered.entrant);
  }
  return pool;
}

const WORK = 5_000;
/** One search after the budget is used up, and the arranging of one match. */
const OVER = 50_000;

/** All slices of a pass. */
function slices(pool: MatchPool, nowMs: number) {
  const found = [];
  for (let slice = pool.pass(nowMs, { work: WORK, max: 8 }); ; slice = pool.pass(nowMs, { work: WORK, max: 8 })) {
    found.push(slice);
    if (!slice.hasMore) return found;
  }
}

const many = (count: number, size: (n: number) => number) => Array.from({ length: count }, (_, n) => size(n));

describe("what a pass costs", () => {
  it("is next to nothing where no match is possible: nothing but pairs for sides of three", () => {
    const pool = poolWith(
      threes,
      many(350, () => 2),
    );
    const work = slices(pool, 60_000).reduce((sum, slice) => sum + slice.work, 0);
    expect(pool.size).toBe(350);
    expect(work).toBeLessThan(100_000);
  });

  it.each<[what: string, rules: MatchRules, sizes: number[], needs: TicketNeed[]]>([
    ["four pairs for each single", threes, many(1_000, (n) => (n % 5 === 0 ? 1 : 2)), []],
    ["nothing but pairs", threes, many(1_000, () => 2), []],
    [
      "sides of eight, of which one place is hard to fill",
      { ...threes, sides: { count: 2, min: 8, max: 8, uneven: false } },
      many(600, (n) => (n % 7 === 0 ? 1 : 3)),
      [],
    ],
    ["four pairs for each single, by price", byPrice, many(1_000, (n) => (n % 5 === 0 ? 1 : 2)), []],
    ["few who could meet, by price", byPrice, many(14, (n) => 1 + (n % 2)), []],
    [
      "any size down to one",
      { ...threes, sides: { count: 2, min: 1, max: 16, uneven: true } },
      many(300, (n) => 1 + (n % 3)),
      [],
    ],
    [
      "long lists of needs that nobody meets",
      threes,
      many(400, () => 1),
      many(16, () => 0).map((_, n) => ({
        attribute: "mode",
        oneOf: Array.from({ length: 64 }, (_, value) => `of a long kind ${n} ${value}`),
      })),
    ],
  ])("is cut into slices on any traffic: %s", (_what, rules, sizes, needs) => {
    const pool = poolWith(rules, sizes, needs);
    for (const nowMs of [0, 20_000, 40_000, 60_000, 80_000]) {
      for (const slice of slices(pool, nowMs)) expect(slice.work).toBeLessThan(WORK + OVER);
    }
  });

  it("is bounded for a place that is free, however many could have it", () => {
    const pool = poolWith(
      threes,
      many(20_000, () => 1),
    );
    pool.settle(60_000);
    const parties = many(5, (n) => n).map((n) => ({
      ticket: `p${n}`,
      sinceMs: 0,
      needs: [],
      players: [{ id: `x${n}`, attributes: { skill: 700, mode: "m1" } }],
    }));
    const gap = {
      parties,
      sinceMs: 0,
      region: null,
      free: [1, 0],
      roles: new Map(),
      playing: [
        ["x0", "x1"],
        ["x2", "x3", "x4"],
      ],
      max: 1,
    };
    const { found, work } = refillOf(pool, gap, 60_000);
    expect(found?.rows).toHaveLength(1);
    expect(work).toBeLessThan(30_000);
  });

  it("is told of all that was done, and a pass that is cut makes the matches of one that is not", () => {
    const sizes = many(200, (n) => (n % 4 === 0 ? 2 : 1));
    const [whole, cut] = [poolWith(threes, sizes), poolWith(threes, sizes)];
    const { matches } = whole.pass(30_000);
    const parts = slices(cut, 30_000);
    expect(parts.length).toBeGreaterThan(3);
    const tickets = (of: readonly { entrants: readonly { party: { ticket: string } }[] }[]) =>
      of.map(({ entrants }) => entrants.map(({ party }) => party.ticket));
    expect(tickets(parts.flatMap((part) => part.matches))).toEqual(tickets(matches));
  });
});
