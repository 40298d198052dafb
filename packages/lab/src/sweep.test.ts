import { describe, expect, it } from "vitest";
import { oneAfterTheOther } from "./days.ts";
import { type Figures, figuresOf } from "./figures.ts";
import { generate, TrafficPlan } from "./generate.ts";
import { play } from "./play.ts";
import { adviceOf, frontOf, sweepReport } from "./sweep.ts";
import { ticketLine as line, pairs } from "./testing/pairs.ts";
import { combinations, readVary, withChange } from "./vary.ts";

const rules = {
  passEveryMs: 500,
  closeness: [
    {
      attribute: "skill",
      gap: [
        [0, 50],
        [10, 300],
      ],
    },
  ],
  choose: { by: "oldest" },
};

describe("what is varied", () => {
  it("is read as a path with its values, also with lists among them", () => {
    expect(readVary("closeness.0.gap=x0.5, t2,[[0, 40],[9,90]]")).toEqual({
      path: ["closeness", "0", "gap"],
      values: ["x0.5", "t2", "[[0, 40],[9,90]]"],
    });
    for (const text of ["", "gap", "=x2", "a..b=1", "a=1,,2", "a="]) expect(readVary(text)).toBeUndefined();
  });

  it("multiplies numbers, the values of a curve or its seconds, or is the value itself", () => {
    const change = (path: string, value: string) => withChange(rules, { path: path.split("."), value });
    expect(change("passEveryMs", "x2")).toEqual({ value: { ...rules, passEveryMs: 1_000 } });
    expect(change("closeness.0.gap", "x2")).toMatchObject({
      value: {
        closeness: [
          {
            gap: [
              [0, 100],
              [10, 600],
            ],
          },
        ],
      },
    });
    expect(change("closeness.0.gap", "t0.5")).toMatchObject({
      value: {
        closeness: [
          {
            gap: [
              [0, 50],
              [5, 300],
            ],
          },
        ],
      },
    });
    expect(change("choose.by", "price")).toMatchObject({ value: { choose: { by: "price" } } });
    expect(change("closeness.1.gap", "x2")).toEqual({ missing: "closeness.1.gap" });
    expect(change("constructor.name", "x2")).toEqual({ missing: "constructor.name" });
    expect(change("choose.by", "x2")).toMatchObject({ wrong: expect.stringContaining("which x2 cannot change") });
    expect(rules.passEveryMs).toBe(500);
  });

  it("is put together in all ways, the first changing slowest", () => {
    const sets = combinations([
      { path: ["a"], values: ["1", "2"] },
      { path: ["b"], values: ["3", "4"] },
    ]);
    expect(sets.map((set) => set.map(({ value }) => value).join(""))).toEqual(["13", "14", "23", "24"]);
    expect(combinations([])).toEqual([[]]);
  });
});

const tried = (name: string, waitS: number, spread: number, players = 100) => {
  const of = (p50: number) => ({ mean: p50, p50, p90: p50, p99: p50, max: p50 });
  const figures = { searchS: of(waitS), spread: { skill: of(spread) }, matched: { tickets: players, players } };
  return { name, figures: figures as unknown as Figures };
};

describe("a sweep", () => {
  const own = tried("own", 30, 100);
  const all = [
    own,
    tried("sooner", 20, 99),
    tried("closer", 29, 70),
    tried("late", 60, 60),
    tried("both worse", 31, 101),
  ];

  it("marks the sets of rules for which no other is both sooner and closer", () => {
    expect(frontOf(all, "skill").map(({ name }) => name)).toEqual(["sooner", "closer", "late"]);
  });

  it("recommends the lowest spread at no longer a wait, and the shortest wait at no wider a spread", () => {
    const advice = adviceOf(all, "skill");
    expect([advice.atSameWait?.name, advice.atSameSpread?.name]).toEqual(["closer", "sooner"]);
    expect(advice.text[0]).toBe(
      "At no longer a wait: closer brings the spread to 70 (-30 %) at a wait of 29 s; the rules as configured have a p90 wait of 30 s and a median spread of skill of 100.",
    );
    expect(adviceOf([own, tried("late", 60, 60)], "skill").text[0]).toContain(
      "Nothing that was tried has a lower spread",
    );
    expect(adviceOf([], "skill").text).toHaveLength(1);
  });

  it("never recommends rules that match fewer players", () => {
    expect(adviceOf([own, tried("few", 10, 10, 90)], "skill").atSameWait).toBeUndefined();
    expect(frontOf([own, tried("few", 10, 10, 90)], "skill").map(({ name }) => name)).toEqual(["own"]);
  });

  it("makes a page with what it found, a point for each set, and nothing from outside", () => {
    const tickets = generate(pairs, TrafficPlan.parse({ minutes: 5 }), 7);
    const sets = [pairs, { ...pairs, passEveryMs: 5_000 }].map((queue, n) => ({
      name: `<${n}>`,
      figures: figuresOf(tickets, play(queue, tickets)),
    }));
    const page = sweepReport(sets, "skill", { queue: "pairs", traffic: "seed 7", version: "0" });
    expect(page.match(/<svg /g)).toHaveLength(1);
    expect(page).toContain("as configured");
    expect(page).not.toContain("<1>");
    expect(page).not.toMatch(/(src|href)="https?:/);
  });
});

describe("traffic of several days", () => {
  it("is played a day after the other, with ids that stay apart", () => {
    const day = [line("t1", 5, 1_000), line("t2", 90_000, 1_000, { cancelAt: 90_010 })];
    const all = oneAfterTheOther([day, day]);
    expect(all.map(({ ticket, at }) => [ticket, at])).toEqual([
      ["1:t1", 5],
      ["1:t2", 90_000],
      ["2:t1", 172_805],
      ["2:t2", 262_800],
    ]);
    expect(all[3]?.cancelAt).toBe(262_810);
    expect(oneAfterTheOther([day])).toBe(day);
  });
});
