import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import { testRules } from "../testing/rules.ts";
import { search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainTicket } from "./explain.ts";
import { queueSummary } from "./view.ts";

/** Two queues of one lobby, of which the second looks at skill less closely and at latency. */
function rulesOfTwo(more: { readonly lobby?: string } = {}) {
  const rules = testRules();
  const pairs = rules.queues.get("pairs");
  if (!pairs) throw new Error("no queue");
  const [skill] = pairs.match.closeness;
  if (!skill) throw new Error("no closeness");
  const wide = {
    ...pairs,
    ...more,
    searchMs: 60_000,
    match: {
      ...pairs.match,
      closeness: [{ ...skill, gap: [[0, 1_000]] as const }],
      latency: { regions: ["north-quay"], ceilingMs: [[0, 80]] as const },
    },
  };
  return { ...rules, queues: new Map([...rules.queues, ["wide", wide]]) };
}

const near = { latencyMs: { "north-quay": 20 } };
const both = { also: ["wide"], ...near };

describe("a search in several queues", () => {
  it("is over everywhere with the first match of any", () => {
    const test = new TestHarbor(rulesOfTwo());
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    expect(search(test, ansel ?? "", 1_000, both).reply).toMatchObject({ ticket: { queue: "pairs", also: ["wide"] } });
    search(test, brisa ?? "", 1_500, { queue: "wide", ...near });
    test.pass(500);
    const [match] = test.harbor.state.queues.matches.values();
    expect(match).toMatchObject({ queue: "wide" });
    expect(told(test, ansel ?? "").map(({ kind }) => kind)).toContain("into-room");
    // Nobody is matched with it in the other queue.
    search(test, corin ?? "", 1_000);
    test.pass(1_000);
    expect(test.harbor.state.queues.matches.size).toBe(1);
    expect([...test.harbor.state.queues.byName.values()].map(({ id, tickets }) => [id, tickets.size])).toEqual([
      ["pairs", 1],
      ["wide", 0],
    ]);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("counts in each of them, and once in its lobby", () => {
    const test = new TestHarbor(rulesOfTwo());
    search(test, test.connect("Ansel"), 1_000, both);
    const { state, rules } = test.harbor;
    expect(["pairs", "wide"].map((id) => queueSummary(state, rules, id).tickets)).toEqual([1, 1]);
    expect(state.derived.queueCounts.searchingIn("quayside")).toBe(1);
  });

  it("goes on for as long as the queue that searches longest, and is explained in each", () => {
    const test = new TestHarbor(rulesOfTwo());
    const ansel = test.connect("Ansel");
    search(test, ansel, 1_000, both);
    search(test, test.connect("Brisa"), 3_000, both);
    test.pass(31_000);
    const ticket = ticketOf(test, ansel);
    expect(ticket?.untilMs).toBe((ticket?.sinceMs ?? 0) + 60_000);
    const why = explainTicket(test.harbor.state, test.harbor.rules, ticket?.id ?? "", test.now);
    expect(why).toMatchObject({ queue: "pairs", also: [{ queue: "wide" }] });
    expect(why?.text[0]).toBe("It searches in pairs and wide at once: the first match of any is it.");
    expect(why?.text).toContain("In wide:");
    expect(why?.also?.[0]?.funnel.map(({ rule }) => rule)).toContain("latency");
    test.pass(30_000);
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "ticket-ended", cause: "nobody-found" });
  });

  it("is refused when one of them would refuse it, naming that one, and when they are of several lobbies", () => {
    const test = new TestHarbor(rulesOfTwo());
    const ansel = test.connect("Ansel");
    const refusal = (more: object) => search(test, ansel, 1_000, more).refused;
    expect(refusal({ also: ["wide"] })).toMatchObject({
      code: "search-hopeless",
      detail: expect.stringContaining("In queue wide: There is no region"),
    });
    expect(refusal({ ...both, latencyMs: { "north-quay": 20, nowhere: 3 } })).toMatchObject({
      code: "region-unknown",
      detail: "The search names the region nowhere; its queues know north-quay.",
    });
    expect(refusal({ also: ["none"] })?.code).toBe("queue-unknown");
    test.ok({ do: "queue.set-mode", queue: "wide", mode: "draining" });
    expect(refusal(both)).toMatchObject({ code: "queue-closed", detail: expect.stringContaining("Queue wide") });
    const apart = new TestHarbor(rulesOfTwo({ lobby: "far-light" }));
    expect(search(apart, apart.connect("Ansel"), 1_000, both).refused).toMatchObject({
      code: "queue-elsewhere",
      detail:
        "Queue pairs is of lobby quayside and wide is of lobby far-light; search in queues of one lobby at a time.",
    });
  });

  it("goes on in the others when one is taken away, and is over with the last", () => {
    const test = new TestHarbor(rulesOfTwo());
    const ansel = test.connect("Ansel");
    search(test, ansel, 1_000, both);
    test.pass(1_000);
    const rules = rulesOfTwo();
    rules.queues.delete("pairs");
    Object.assign(test, { harbor: Harbor.fromSnapshot(rules, test.harbor.snapshot()) });
    test.pass(1_000);
    expect(ticketOf(test, ansel)).toMatchObject({ queue: "wide" });
    expect(ticketOf(test, ansel)).not.toHaveProperty("also");
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "ticket-changed", ticket: { queue: "wide" } });
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });
});
