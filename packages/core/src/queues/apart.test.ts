import { describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import { ApartMatcher } from "../matching/index.ts";
import type { LookForMatches } from "../model/effect.ts";
import { testRules } from "../testing/rules.ts";
import { search, ticketOf } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

/** A harbor whose matches are looked for apart, and what it asks for. */
function apart() {
  const test = new TestHarbor({ ...testRules(), matcher: "apart" });
  const looks: LookForMatches[] = [];
  const advance = (ms: number) => {
    for (const { effects } of test.advances(ms)) {
      looks.push(...effects.flatMap((effect) => (effect.effect === "look-for-matches" ? [effect] : [])));
    }
  };
  const matcher = new ApartMatcher();
  const answer = () => {
    const look = looks.shift();
    if (look === undefined) throw new Error("nothing was asked");
    const { matches, hasMore } = matcher.look(look);
    return test.ok({ do: "queue.propose", queue: look.queue, look: look.look, matches, hasMore });
  };
  return { test, looks, advance, answer };
}

describe("matches that are looked for apart", () => {
  it("are asked for with who has come and gone, and made of the answer", () => {
    const { test, looks, advance, answer } = apart();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    advance(0);
    expect(looks).toMatchObject([{ queue: "pairs", went: [], came: [{ ticket: ticketOf(test, ansel)?.id }] }]);
    expect(looks[0]?.rules).toBeDefined();
    // Nothing else is asked before the answer is there.
    search(test, brisa, 1_010);
    advance(2_000);
    expect(looks).toHaveLength(1);
    expect(answer()).toEqual({ made: 0, refused: 0 });
    advance(500);
    expect(looks[0]).not.toHaveProperty("rules");
    expect(looks[0]?.came).toHaveLength(1);
    expect(answer()).toEqual({ made: 1, refused: 0 });
    expect(ticketOf(test, ansel)).toBeUndefined();
    expect(test.harbor.state.queues.matches.size).toBe(1);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("are not made of tickets that went while they were looked for; the others are looked at again", () => {
    const { test, looks, advance, answer } = apart();
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    search(test, ansel ?? "", 1_000);
    search(test, brisa ?? "", 1_000);
    advance(0);
    test.ok({ do: "queue.cancel", player: brisa ?? "", args: {} });
    expect(answer()).toEqual({ made: 0, refused: 1 });
    search(test, corin ?? "", 1_000);
    advance(500);
    expect(looks[0]?.came.map(({ ticket }) => ticket).sort()).toEqual(
      [ansel, corin].map((player) => ticketOf(test, player ?? "")?.id).sort(),
    );
    expect(answer()).toEqual({ made: 1, refused: 0 });
  });

  it("are asked for anew, with everything, when no answer comes, and a late answer counts for nothing", () => {
    const { test, looks, advance, answer } = apart();
    for (const name of ["Ansel", "Brisa"]) search(test, test.connect(name), 1_000);
    advance(0);
    const late = looks.shift();
    advance(5_000);
    expect(looks).toHaveLength(1);
    expect(looks[0]?.rules).toBeDefined();
    expect(looks[0]?.came).toHaveLength(2);
    const found = new ApartMatcher().look(late as LookForMatches);
    const stale = { do: "queue.propose", queue: "pairs", look: late?.look ?? "", ...found } as const;
    expect(test.ok(stale)).toEqual({ made: 0, refused: 1 });
    expect(answer()).toEqual({ made: 1, refused: 0 });
  });

  it("are not made in a paused queue, nor by rules that hold no more", () => {
    const { test, advance, answer } = apart();
    const players = ["Ansel", "Brisa"].map((name) => test.connect(name));
    for (const player of players) search(test, player, 1_000);
    advance(0);
    test.ok({ do: "queue.set-mode", queue: "pairs", mode: "paused" });
    expect(answer()).toEqual({ made: 0, refused: 1 });
    test.ok({ do: "queue.set-mode", queue: "pairs", mode: "open" });
    advance(500);
    expect(answer()).toEqual({ made: 1, refused: 0 });
  });

  it("are looked for by other rules at once when those that were asked by hold no more", () => {
    const { test, looks, advance, answer } = apart();
    for (const skill of [1_000, 1_200]) search(test, test.connect(`Of ${skill}`), skill);
    advance(0);
    const { rules } = test.harbor;
    const pairs = rules.queues.get("pairs");
    if (pairs === undefined) throw new Error("no queue");
    const [skill] = pairs.match.closeness;
    if (skill === undefined) throw new Error("no closeness");
    const wide = { ...pairs, match: { ...pairs.match, closeness: [{ ...skill, gap: [[0, 500]] as const }] } };
    const queues = test.harbor.changeRules({ ...rules, queues: new Map([...rules.queues, ["pairs", wide]]) });
    test.ok({ do: "harbor.change-rules", paths: ["queues.pairs"], queues });
    expect(answer()).toEqual({ made: 0, refused: 0 });
    advance(1);
    expect(looks[0]?.rules).toEqual(wide.match);
    expect(answer()).toEqual({ made: 1, refused: 0 });
  });

  it("are no more than there is room for", () => {
    const { test, advance, answer, looks } = apart();
    const players = Array.from({ length: 12 }, (_, n) => test.connect(`Player ${n}`));
    for (const player of players) search(test, player, 1_000);
    advance(0);
    const max = looks[0]?.max ?? 0;
    const { made } = answer();
    expect(made).toBe(Math.min(max, 6));
    advance(500);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });
});
