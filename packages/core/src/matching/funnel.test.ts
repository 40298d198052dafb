import { describe, expect, it } from "vitest";
import { base } from "../testing/parties.ts";
import { type Entrant, entrantOf } from "./entrant.ts";
import { funnelOf } from "./funnel.ts";
import type { MatchRules } from "./rules.ts";

const rules: MatchRules = {
  ...base,
  needs: [],
  latency: null,
  lineUp: {
    attribute: "roles",
    perSide: [
      { role: "mason", count: 1 },
      { role: "tidekeeper", count: 1 },
    ],
  },
};

function entrant(ticket: string, roles: readonly string[], skill = 1_000): Entrant {
  const entered = entrantOf(rules, { ticket, sinceMs: 0, players: [{ id: ticket, attributes: { skill, roles } }] });
  if ("refused" in entered) throw new Error(entered.refused.detail);
  return entered.entrant;
}

describe("why a ticket waits", () => {
  it("names the roles that those in reach cannot fill", () => {
    const others = [entrant("b", ["mason"]), entrant("c", ["mason"]), entrant("far", ["tidekeeper"], 9_000)];
    const missing = (own: Entrant) => funnelOf(rules, own, others, { nowMs: 60_000 }).missing;
    expect(missing(entrant("a", ["mason"]))).toEqual([
      "The role tidekeeper is missing: a match needs 2, and nobody in reach takes it.",
    ]);
    expect(missing(entrant("a", ["tidekeeper"]))).toEqual([
      "The role tidekeeper is missing: a match needs 2, and 1 player in reach can take it.",
    ]);
    others.push(entrant("d", ["tidekeeper", "mason"]));
    expect(missing(entrant("a", ["tidekeeper"]))).toEqual([]);
  });
});
