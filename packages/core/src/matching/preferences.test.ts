import { describe, expect, it } from "vitest";
import { base, poolOf } from "../testing/parties.ts";
import { faultsOfRules } from "./faults.ts";
import { qualityOf } from "./match.ts";
import { inCommon } from "./preferences.ts";
import type { MatchAttributes, MatchRules, SearchingParty } from "./rules.ts";

const rules: MatchRules = {
  ...base,
  sides: { count: 2, min: 1, max: 1, uneven: false },
  party: { max: 1, together: true },
  needs: [],
  latency: null,
  prefer: [{ attribute: "device", must: "equal", weight: 30 }],
};

const ticket = (name: string, skill: number, attributes: MatchAttributes = {}, sinceMs = 0): SearchingParty => ({
  ticket: name,
  sinceMs,
  players: [{ id: name, attributes: { skill, ...attributes } }],
});

const ticketsOf = (of: MatchRules, parties: readonly SearchingParty[], nowMs = 60_000) =>
  poolOf(of, parties)
    .pass(nowMs)
    .matches.map(({ entrants }) => entrants.map(({ party }) => party.ticket).sort());

describe("preferences", () => {
  it("outweigh a spread that is smaller than their points, and no larger one", () => {
    const own = ticket("own", 1_000, { device: "pad" });
    const near = ticket("near", 1_010, { device: "keys" }, 10);
    expect(ticketsOf(rules, [own, near, ticket("alike", 1_035, { device: "pad" }, 20)])[0]).toEqual(["alike", "own"]);
    expect(ticketsOf(rules, [own, near, ticket("far", 1_045, { device: "pad" }, 20)])[0]).toEqual(["near", "own"]);
  });

  it("keep nobody from a match, count in its score and are named in its quality", () => {
    const [match] = poolOf(rules, [
      ticket("own", 1_000, { device: "pad" }),
      ticket("other", 1_010, { device: "keys" }),
    ]).pass(60_000).matches;
    expect(match?.score).toBe(40);
    expect(match && qualityOf(rules, match, 60_000).unmet).toEqual(["device"]);
  });

  it("are nothing to whoever says nothing of them", () => {
    const [match] = poolOf(rules, [ticket("own", 1_000, { device: "pad" }), ticket("other", 1_010)]).pass(
      60_000,
    ).matches;
    expect(match?.score).toBe(10);
    expect(match && qualityOf(rules, match, 60_000)).not.toHaveProperty("unmet");
  });

  it("are shared by all of a set, not by pairs of it", () => {
    const lists = [
      ["a", "b"],
      ["b", "c"],
      ["c", "a"],
    ];
    expect(lists.slice(0, 2).reduce<ReturnType<typeof inCommon>>(inCommon, undefined)).toEqual(["b"]);
    expect(lists.reduce<ReturnType<typeof inCommon>>(inCommon, undefined)).toBeNull();
    expect(inCommon(inCommon(undefined, undefined), "x")).toBe("x");
  });

  it("are refused when one is named twice", () => {
    const [one] = rules.prefer;
    expect(faultsOfRules({ ...rules, prefer: one ? [one, one] : [] })).toEqual([
      { path: ["prefer", 1, "attribute"], message: "device is named twice" },
    ]);
  });
});

describe("priority", () => {
  const ranked: MatchRules = { ...rules, prefer: [], priority: { attribute: "tier", headStartMs: { gold: 20_000 } } };
  const gold = ticket("gold", 1_000, { tier: "gold" }, 30_000);
  const middle = ticket("middle", 1_020, {}, 40_000);

  it("has the first choice of tickets that have waited no longer than the head start", () => {
    expect(ticketsOf(ranked, [ticket("older", 1_040, {}, 15_000), gold, middle])).toEqual([["gold", "middle"]]);
    expect(ticketsOf({ ...ranked, priority: null }, [ticket("older", 1_040, {}, 15_000), gold, middle])).toEqual([
      ["middle", "older"],
    ]);
  });

  it("stands behind whoever has waited longer than that", () => {
    expect(ticketsOf(ranked, [ticket("older", 1_040, {}, 9_000), gold, middle])).toEqual([["middle", "older"]]);
  });

  it("changes nothing of what a ticket accepts", () => {
    // 200 apart is accepted after 30 s; it has waited 10 s.
    const far = [ticket("gold", 1_000, { tier: "gold" }, 50_000), ticket("far", 1_200, {}, 0)];
    expect(ticketsOf(ranked, far)).toEqual([]);
  });
});
