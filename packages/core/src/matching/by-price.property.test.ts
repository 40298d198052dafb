import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  allowance,
  base,
  check,
  everySet,
  NOW,
  partiesOf,
  party,
  poolOf,
  preferring,
  scoreOf,
} from "../testing/parties.ts";
import { runs } from "../testing/runs.ts";
import { valueAt } from "./curve.ts";
import { type Entrant, entrantOf } from "./entrant.ts";
import { type Match, sidesOf } from "./match.ts";
import { PLAN_PLAYERS_MAX } from "./plan.ts";
import { MatchPool } from "./pool.ts";
import type { MatchRules } from "./rules.ts";

const rules: MatchRules = {
  ...base,
  sides: { count: 2, min: 2, max: 2, uneven: false },
  party: { max: 2, together: true },
  choose: { by: "price", allowance },
};

/** With so much allowed for any wait the matches that go together are chosen by their scores alone. */
const anything: MatchRules = { ...rules, choose: { by: "price", allowance: [[0, 10_000]] } };

function priceOf(set: readonly Entrant[], rules: MatchRules): number {
  const { choose } = rules;
  const seconds = set.reduce((sum, one) => sum + NOW - one.party.sinceMs, 0) / set.length / 1_000;
  return scoreOf(rules, set) - valueAt(choose.by === "price" ? choose.allowance : [[0, 0]], seconds);
}

/** The lowest sum of prices, each times its players, of any way to make matches: by trying all. */
function cheapest(sets: readonly (readonly Entrant[])[], of: MatchRules): number {
  let best = 0;
  const extend = (from: number, taken: ReadonlySet<Entrant>, cost: number) => {
    best = Math.min(best, cost);
    for (let n = from; n < sets.length; n++) {
      const set = sets[n] as readonly Entrant[];
      const price = priceOf(set, of);
      if (price > 0 || set.some((one) => taken.has(one))) continue;
      extend(n + 1, new Set([...taken, ...set]), cost + 4 * price);
    }
  };
  extend(0, new Set(), 0);
  return best;
}

const playersOf = (entrants: readonly Entrant[]) => entrants.reduce((sum, { players }) => sum + players.length, 0);
const plain = (match: Match) => ({ sides: sidesOf(match), region: match.region, score: match.score });

describe("matches that are made by their price", () => {
  it.each([
    ["what waiting makes up for", rules],
    ["scores alone", anything],
    ["scores with preferences", { ...anything, prefer: preferring }],
  ])("are the cheapest of all ways where few wait, by %s", (_, by) => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 2, maxLength: 10 }), (raws) => {
        const pool = poolOf(by, partiesOf(raws.map((raw) => ({ ...raw, build: "b1", wants: undefined }))));
        const entrants = pool.byAge();
        if (playersOf(entrants) > PLAN_PLAYERS_MAX) return;
        const cost = pool.pass(NOW).matches.reduce((sum, match) => sum + 4 * priceOf(match.entrants, by), 0);
        expect(cost).toBeCloseTo(cheapest(everySet(by, entrants), by), 6);
      }),
      { numRuns: runs(800) },
    );
  });

  it("are the same in one pass and in slices, and keep every rule", () => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 60 }), (raws, work) => {
        const parties = partiesOf(raws);
        const whole = poolOf(rules, parties).pass(NOW).matches;
        for (const match of whole) check(rules, match, NOW);
        const pool = poolOf(rules, parties);
        const sliced: Match[] = [];
        for (let more = true; more; ) {
          const { matches, hasMore } = pool.pass(NOW, { work, max: 1 });
          sliced.push(...matches);
          more = hasMore;
        }
        expect(sliced.map(plain)).toEqual(whole.map(plain));
      }),
    );
  });

  it("hold nobody twice and nobody who has gone, whoever goes between two slices", () => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 8, maxLength: 60 }), fc.integer({ min: 1, max: 300 }), (raws, work) => {
        const pool = new MatchPool(rules);
        const rows = new Map(
          partiesOf(raws).flatMap((one) => {
            const entered = entrantOf(rules, one);
            return "entrant" in entered ? [[one.ticket, pool.add(entered.entrant)] as const] : [];
          }),
        );
        const out = new Set<string>();
        for (let n = 0; n < 200; n++) {
          const { matches, hasMore } = pool.pass(NOW, { work });
          for (const one of matches.flatMap(({ entrants }) => entrants)) {
            expect(out.has(one.party.ticket)).toBe(false);
            out.add(one.party.ticket);
          }
          const [ticket, row] = [...rows][n] ?? [];
          if (ticket !== undefined && row && !out.has(ticket)) {
            pool.remove(row);
            out.add(ticket);
          }
          if (!hasMore && n >= rows.size) break;
        }
      }),
      { numRuns: runs(800) },
    );
  });
});
