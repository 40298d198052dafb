import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { base, everyMatch, partiesOf, party, poolOf } from "../testing/parties.ts";
import { runs } from "../testing/runs.ts";
import { type Entrant, entrantOf } from "./entrant.ts";
import { MatchPool } from "./pool.ts";
import type { MatchRules } from "./rules.ts";

const rules: MatchRules = {
  ...base,
  sides: { count: 2, min: 2, max: 2, uneven: false },
  party: { max: 2, together: true },
};

/** Tickets that come one after the other, and how long it is until the next pass each time. */
const traffic = fc.record({
  raws: fc.array(party, { minLength: 6, maxLength: 22 }),
  everyMs: fc.integer({ min: 200, max: 9_000 }),
});

const byAge = (a: Entrant, b: Entrant) => a.party.sinceMs - b.party.sinceMs;

describe("passes over a queue, one after the other", () => {
  it("never leave a ticket behind for younger ones, when it could be in a match with those that are there", () => {
    fc.assert(
      fc.property(traffic, ({ raws, everyMs }) => {
        const coming = partiesOf(raws)
          .flatMap((one) => {
            const entered = entrantOf(rules, one);
            return "entrant" in entered ? [entered.entrant] : [];
          })
          .sort(byAge);
        const pool = new MatchPool(rules);
        let next = 0;
        for (let nowMs = 0; nowMs <= 130_000; nowMs += everyMs) {
          for (; (coming[next]?.party.sinceMs ?? Infinity) <= nowMs; next++) pool.add(coming[next] as Entrant);
          let left = pool.byAge();
          const { matches } = pool.pass(nowMs);
          const matched = new Set(matches.flatMap(({ entrants }) => entrants));
          for (const { entrants } of matches) {
            const oldest = [...entrants].sort(byAge)[0] as Entrant;
            // Those who can never meet do not stand in each other's way: in which order they are found says nothing.
            const isBefore = (one: Entrant) => one.key === oldest.key && one.party.sinceMs < oldest.party.sinceMs;
            const older = left.filter((one) => isBefore(one) && !matched.has(one));
            for (const one of older) expect(everyMatch(rules, left, { withOne: one, nowMs })).toEqual([]);
            left = left.filter((one) => !entrants.includes(one));
          }
          expect(everyMatch(rules, left, { nowMs })).toEqual([]);
        }
      }),
      { numRuns: runs(300) },
    );
  });

  it("look at newcomers also when somebody has asked who waits in between", () => {
    const alone = { sinceMs: 0, needs: [], attributes: { build: "b1" } };
    const latencyMs = { "north-quay": 10, "south-quay": 10, "far-light": 10 };
    const parties = [0, 1, 2, 3].map((n) => ({
      ...alone,
      ticket: `t${n}`,
      players: [{ id: `p${n}`, attributes: { skill: 1_000 }, latencyMs }],
    }));
    const far = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => ({
      ...alone,
      ticket: `f${n}`,
      players: [{ id: `f${n}`, attributes: { skill: 5_000 + 5_000 * n }, latencyMs }],
    }));
    const pool = poolOf(rules, far);
    pool.pass(0);
    for (const one of parties) {
      const entered = entrantOf(rules, one);
      if ("entrant" in entered) pool.add(entered.entrant);
    }
    expect(pool.byAge()).toHaveLength(14);
    expect(pool.pass(0, { examinedAgain: 0 }).matches).toHaveLength(1);
  });

  it("match nobody twice, however few of the many that wait are looked at, and whoever has the first choice", () => {
    fc.assert(
      fc.property(
        fc.array(party, { minLength: 20, maxLength: 80 }),
        fc.integer({ min: 0, max: 6 }),
        fc.integer({ min: 1, max: 400 }),
        (raws, few, work) => {
          const coming = partiesOf(raws).flatMap((one) => {
            const entered = entrantOf(rules, one);
            return "entrant" in entered ? [entered.entrant] : [];
          });
          const pool = new MatchPool(rules);
          const matched = new Set<string>();
          for (let nowMs = 60_000; nowMs < 100_000; nowMs += 1_000) {
            for (const one of coming.splice(0, 4)) pool.add(one);
            const { matches } = pool.pass(nowMs, { examinedAgain: few, work });
            for (const { party: found } of matches.flatMap(({ entrants }) => entrants)) {
              expect(matched.has(found.ticket)).toBe(false);
              matched.add(found.ticket);
            }
          }
          expect(pool.byAge().filter(({ party: left }) => matched.has(left.ticket))).toEqual([]);
        },
      ),
      { numRuns: runs(1_500) },
    );
  });

  it("come to everybody when only a few are looked at each time: nobody is left who could be in a match", () => {
    fc.assert(
      fc.property(fc.array(party, { minLength: 8, maxLength: 40 }), fc.integer({ min: 1, max: 4 }), (raws, few) => {
        const pool = poolOf(rules, partiesOf(raws));
        const nowMs = 60_000;
        const rounds = raws.length + Math.ceil(raws.length / few) * 8;
        for (let n = 0; n < rounds; n++) pool.pass(nowMs, { examinedAgain: few, newcomers: few, work: 50, max: 1 });
        expect(everyMatch(rules, pool.byAge(), { nowMs })).toEqual([]);
      }),
      { numRuns: runs(400) },
    );
  });
});
