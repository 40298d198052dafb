import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { base, check, everyMatch, NOW, partiesOf, party, poolOf, preferring, variants } from "../testing/parties.ts";
import { runs } from "../testing/runs.ts";
import { type Match, qualityOf, sidesOf } from "./match.ts";
import type { MatchRules } from "./rules.ts";

describe("matches of random pools", () => {
  it.each(variants.map((rules, n) => [n, rules] as const))("keep every rule of variant %i", (_, rules) => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 1, maxLength: 40 }), (raws) => {
        const pool = poolOf(rules, partiesOf(raws));
        const { matches, hasMore } = pool.pass(NOW);
        expect(hasMore).toBe(false);
        const tickets = matches.flatMap(({ entrants }) => entrants.map((one) => one.party.ticket));
        expect(new Set(tickets).size).toBe(tickets.length);
        for (const match of matches) check(rules, match, NOW);
      }),
      { numRuns: runs(600) },
    );
  });

  it("are the same for the same tickets, made in one pass or in slices", () => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 60 }), (raws, work) => {
        const parties = partiesOf(raws);
        const whole = poolOf(base, parties).pass(NOW).matches;
        const pool = poolOf(base, parties);
        const sliced: Match[] = [];
        for (let more = true; more; ) {
          const { matches, hasMore } = pool.pass(NOW, { work });
          sliced.push(...matches);
          more = hasMore;
        }
        expect(sliced.map(plain)).toEqual(whole.map(plain));
      }),
    );
  });

  it("leave nobody behind who could be in one with those that are left", () => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 1, maxLength: 14 }), (raws) => {
        const rules: MatchRules = {
          ...base,
          sides: { count: 2, min: 2, max: 2, uneven: false },
          party: { max: 2, together: true },
        };
        const pool = poolOf(rules, partiesOf(raws));
        pool.pass(NOW);
        expect(everyMatch(rules, pool.byAge())).toEqual([]);
      }),
      { numRuns: runs(800) },
    );
  });
});

const plain = (match: Match) => ({ ...qualityOf(base, match, NOW), sides: sidesOf(match), region: match.region });

describe("the best match", () => {
  const rules: MatchRules = {
    ...base,
    latency: null,
    sides: { count: 2, min: 2, max: 2, uneven: false },
    party: { max: 2, together: true },
  };

  it.each([
    ["", rules],
    [", with preferences", { ...rules, prefer: preferring }],
  ])("of the oldest in a pool that is too large to plan as a whole is the one with the lowest score%s", (_, rules) => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 9, maxLength: 12 }), (raws) => {
        const parties = partiesOf(raws.map((raw) => ({ ...raw, wants: undefined, build: "b1" })));
        const pool = poolOf(rules, parties);
        const entrants = pool.byAge();
        if (entrants.reduce((sum, one) => sum + one.players.length, 0) <= 12) return;
        const oldest = entrants.find((one) => everyMatch(rules, entrants, { withOne: one }).length > 0);
        const [first] = pool.pass(NOW).matches;
        expect(first?.entrants[0]).toBe(oldest);
        if (!oldest) return;
        const best = Math.min(...everyMatch(rules, entrants, { withOne: oldest }));
        expect(first?.score).toBeCloseTo(best, 6);
      }),
      { numRuns: runs(800) },
    );
  });

  it("puts sides as close as they can be", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1_400, max: 1_440 }), { minLength: 4, maxLength: 4 }), (skills) => {
        const pool = poolOf(
          rules,
          skills.map((skill, n) => ({
            ticket: `t${n}`,
            sinceMs: 0,
            attributes: { build: "b1" },
            players: [{ id: `p${n}`, attributes: { skill } }],
          })),
        );
        const [match] = pool.pass(NOW).matches;
        const total = skills.reduce((sum, skill) => sum + skill, 0);
        const gaps = [1, 2, 3].map((n) => Math.abs(total - 2 * ((skills[0] ?? 0) + (skills[n] ?? 0))) / 2);
        expect(match && qualityOf(rules, match, NOW).sideGap["skill"]).toBeCloseTo(Math.min(...gaps), 6);
      }),
    );
  });
});
