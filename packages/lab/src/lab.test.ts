import { describe, expect, it } from "vitest";
import { figuresOf } from "./figures.ts";
import { generate, TrafficPlan } from "./generate.ts";
import { linesOf, play } from "./play.ts";
import { report } from "./report.ts";
import { ticketLine as line, pairs as queue } from "./testing/pairs.ts";
import { readTraffic, type TicketLine } from "./traffic.ts";

describe("traffic played through a queue", () => {
  it("makes a match at the first pass after both are close enough", () => {
    const { matches } = play(queue, [line("t1", 0, 1_000), line("t2", 0.2, 1_200)]);
    // 200 apart: allowed after 6 s of waiting, for the one who came 0.2 s later at 6.2 s.
    expect(matches).toHaveLength(1);
    expect(matches[0]).toMatchObject({ at: 6.5, match: "m1", region: "north-quay", tickets: ["t1", "t2"] });
    expect(matches[0]?.sides.map((side) => [...side]).sort()).toEqual([["p-t1"], ["p-t2"]]);
    expect(matches[0]?.quality).toMatchObject({ spread: { skill: 200 }, sideGap: { skill: 200 }, worstLatencyMs: 20 });
  });

  it("lets tickets go when they cancel or nobody was found, at their own moment", () => {
    const { endings } = play(queue, [line("t1", 1, 1_000), line("t2", 2, 5_000, { cancelAt: 7.25 })]);
    expect(endings).toEqual([
      { ticket: "t2", at: 7.25, outcome: "cancelled" },
      { ticket: "t1", at: 61, outcome: "expired" },
    ]);
  });

  it("ends with those waiting for whom nothing can change, where a search has no end", () => {
    const { endings, passes } = play({ ...queue, searchMs: null }, [line("t1", 0, 1_000)]);
    expect(endings).toEqual([{ ticket: "t1", at: expect.any(Number), outcome: "waiting" }]);
    expect(passes).toBeLessThan(30);
  });

  it("stops at the moment that is asked for", () => {
    const { endings, matches } = play(queue, [line("t1", 0, 1_000), line("t2", 0.2, 1_200)], { untilS: 3 });
    expect(matches).toEqual([]);
    expect(endings).toEqual([
      { ticket: "t1", at: 3, outcome: "waiting" },
      { ticket: "t2", at: 3, outcome: "waiting" },
    ]);
  });

  it.each([
    ["attribute-invalid", { players: [{ id: "p", attributes: { skill: "high" }, latencyMs: { "north-quay": 9 } }] }],
    ["attribute-missing", { players: [{ id: "p", latencyMs: { "north-quay": 9 } }] }],
    ["region-unknown", { players: [{ id: "p", attributes: { skill: 1 }, latencyMs: { nowhere: 9 } }] }],
    ["search-hopeless", { players: [{ id: "p", attributes: { skill: 1 }, latencyMs: { "north-quay": 900 } }] }],
    ["search-hopeless", { needs: [{ attribute: "build", oneOf: ["b2"] }] }],
    ["party-too-large", { players: ["p", "q"].map((id) => ({ id, attributes: { skill: 1 } })) }],
    ["already-searching", { players: [{ id: "p-t1", attributes: { skill: 1 }, latencyMs: { "north-quay": 9 } }] }],
  ] as const)("refuses a ticket with %s and goes on", (code, more) => {
    const refused = line("bad", 0.1, 1_000, more as unknown as Partial<TicketLine>);
    const { endings, matches } = play(queue, [line("t1", 0, 1_000), refused, line("t2", 0.2, 1_000)]);
    expect(endings).toMatchObject([{ ticket: "bad", outcome: "refused", code }]);
    expect(matches).toHaveLength(1);
  });

  it("lets who has given up search again", () => {
    const again = line("t2", 5, 1_000, { players: line("t1", 0, 1_000).players });
    const { endings } = play(queue, [line("t1", 0, 1_000, { cancelAt: 4.9 }), again]);
    expect(endings.map(({ outcome }) => outcome)).toEqual(["cancelled", "expired"]);
  });
});

describe("traffic that is made", () => {
  const plan = TrafficPlan.parse({ minutes: 5, perMinute: [[0, 60]] });

  it("is the same for the same seed, and so is what comes of it", () => {
    const once = generate(queue, plan, 7);
    expect(generate(queue, plan, 7)).toEqual(once);
    expect(generate(queue, plan, 8)).not.toEqual(once);
    expect(linesOf(play(queue, once))).toBe(linesOf(play(queue, generate(queue, plan, 7))));
  });

  it("has the rate, the shares and what the rules look at", () => {
    const tickets = generate(queue, TrafficPlan.parse({ minutes: 60, perMinute: [[0, 100]] }), 3);
    expect(Math.abs(tickets.length - 6_000)).toBeLessThan(300);
    const gaveUp = tickets.filter(({ cancelAt }) => cancelAt !== undefined).length / tickets.length;
    expect(Math.abs(gaveUp - 0.1)).toBeLessThan(0.02);
    const { endings } = play(queue, tickets);
    expect(endings.filter(({ code }) => code !== undefined && code !== "search-hopeless")).toEqual([]);
  });

  it("is read back as it was written", () => {
    const tickets = generate(queue, plan, 7);
    const read = readTraffic(tickets.map((ticket) => `${JSON.stringify(ticket)}\n`).join(""));
    expect(read).toEqual({ ok: true, tickets });
  });
});

describe("traffic that cannot be read", () => {
  it("is refused with every line at fault", () => {
    const good = '{"at": 0, "ticket": "t1", "players": [{"id": "p1"}]}';
    const read = readTraffic([good, "{", good, '{"at": -1, "ticket": "t2", "players": []}'].join("\n"));
    expect(read.ok).toBe(false);
    if (read.ok) return;
    expect(read.problem.code).toBe("traffic-invalid");
    const places = read.problem.fields?.map(({ path }) => path);
    expect(places).toEqual(["line 2", "line 3: ticket", "line 4: at", "line 4: players"]);
  });
});

describe("the report", () => {
  it("is one page with its plots, and nothing from outside", () => {
    const tickets = generate(queue, TrafficPlan.parse({ minutes: 5 }), 7);
    const played = play(queue, tickets);
    const ran = { name: "<as configured>", played, figures: figuresOf(tickets, played) };
    const page = report([ran], { queue: "crews", traffic: "seed 7", version: "0" });
    expect(page.match(/<svg /g)).toHaveLength(4);
    expect(page).toContain(`the median wait is`);
    expect(page).toContain("&lt;as configured&gt;");
    expect(page).not.toMatch(/(src|href)="https?:/);
  });
});
