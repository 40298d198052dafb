import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { checkTogether, NOW, partiesOf, party, poolOf, variants } from "../testing/parties.ts";
import { runs } from "../testing/runs.ts";
import { rolesOf, sidesOf } from "./match.ts";
import { postsOf } from "./posts.ts";
import { type Gap, refillOf } from "./refill.ts";
import type { MatchRules, SearchingParty } from "./rules.ts";

/** A match that is played, and whose first ticket has left; with those who wait. */
function broken(rules: MatchRules, parties: readonly SearchingParty[], sinceMs: number) {
  const pool = poolOf(rules, parties);
  const [match] = pool.pass(NOW).matches;
  const [leaver, ...others] = match?.entrants ?? [];
  if (!match || !leaver || others.length === 0) return undefined;
  const gone = new Set(leaver.players.map(({ id }) => id));
  const before = sidesOf(match);
  const playing = before.map((side) => side.filter((id) => !gone.has(id)));
  const gap: Gap = {
    parties: others.map((one) => one.party),
    sinceMs,
    region: match.region,
    playing,
    roles: new Map(Object.entries(rolesOf(rules, match) ?? {})),
    max: gone.size,
    free: playing.map((side) => rules.sides.max - side.length),
  };
  return { pool, gap, sizes: before.map((side) => side.length) };
}

/** Many of one kind, or few of them could ever meet. */
const raws = fc.array(
  party.map((one) => ({ ...one, build: "b1" as const, at: one.at / 3 })),
  { minLength: 10, maxLength: 40, size: "max" },
);

const ROUNDS_MAX = 30;

describe("whoever fills a playing match up", () => {
  it.each(variants.map((rules, n) => [n, rules] as const))("fits everybody in it, by variant %i", (_, rules) => {
    let filled = 0;
    const fits = fc.property(raws, fc.integer({ min: 0, max: NOW }), (list, sinceMs) => {
      const made = broken(rules, partiesOf(list), sinceMs);
      if (!made) return;
      const { pool, gap } = made;
      const refill = refillOf(pool, gap, NOW).found;
      if (!refill) return;
      filled += 1;
      const joiningPlayers = refill.rows.map(({ entrant }) => entrant.party);
      // Those who play are as patient as the room has asked.
      for (const one of gap.parties) {
        checkTogether({ ...rules, latency: null }, [{ ...one, sinceMs }, ...joiningPlayers], null, NOW);
      }
      // Where it is played they know already; for the others it has to be near enough.
      checkTogether(rules, joiningPlayers, gap.region, NOW);
      const ids = joiningPlayers.flatMap(({ players }) => players.map(({ id }) => id));
      expect(refill.sides.flat().sort()).toEqual(ids.sort());
      expect(ids.length).toBeLessThanOrEqual(gap.max);
      for (const [n, side] of refill.sides.entries()) expect(side.length).toBeLessThanOrEqual(gap.free[n] ?? 0);
      // A role is had by as many as the line-up says, also with those who have theirs already.
      const roles = new Map([...gap.roles, ...Object.entries(refill.roles ?? {})]);
      for (const [n, side] of refill.sides.entries()) {
        const all = [...(gap.playing[n] ?? []), ...side];
        for (const role of postsOf(rules)) {
          const taken = all.filter((id) => roles.get(id) === role).length;
          const isWhole = side.length === gap.free[n];
          expect(taken).toBeLessThanOrEqual(postsOf(rules).filter((post) => post === role).length);
          if (isWhole) expect(taken).toBeGreaterThan(0);
        }
      }
      if (rules.party.together) {
        for (const { players } of joiningPlayers) {
          const sides = players.map(({ id }) => refill.sides.findIndex((side) => side.includes(id)));
          expect(new Set(sides).size).toBe(1);
        }
      }
    });
    // Where few of what is drawn can be filled up at all, more is drawn: otherwise this would say nothing.
    for (let round = 0; round < ROUNDS_MAX && filled === 0; round++) fc.assert(fits, { numRuns: runs(400) });
    expect(filled).toBeGreaterThan(0);
  });

  it("is the longest waiting of those who fit", () => {
    const [rules] = variants;
    if (!rules) throw new Error("no rules");
    fc.assert(
      fc.property(raws, (list) => {
        const made = broken(rules, partiesOf(list), 0);
        if (!made) return;
        const { pool, gap } = made;
        const waiting = pool.byAge();
        const alone = (ticket: string) => {
          const others = waiting.filter((one) => one.party.ticket === ticket).map((one) => one.party);
          const only = poolOf(rules, others);
          only.settle(NOW);
          return refillOf(only, gap, NOW).found !== undefined;
        };
        const fits = waiting.filter((one) => alone(one.party.ticket));
        const [first] = refillOf(pool, gap, NOW).found?.rows ?? [];
        expect(first?.entrant.party.ticket).toBe(fits[0]?.party.ticket);
      }),
      { numRuns: runs(500) },
    );
  });
});
