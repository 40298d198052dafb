import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { testRules } from "../testing/rules.ts";
import { boardAll, bringUp } from "../testing/scenes.ts";
import { pairOfRules, search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainMatch, explainTicket } from "./explain.ts";

describe("a search", () => {
  it("ends in a room that starts at once, each on its side, with the others out of it", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    for (const [player, skill] of [
      [ansel, 1_000],
      [corin, 5_000],
      [brisa, 1_020],
    ] as const) {
      expect(search(test, player ?? "", skill).refused).toBeUndefined();
    }
    test.pass(500);
    const room = test.harbor.state.players.byId.get(ansel ?? "")?.room ?? "";
    expect(test.room(room)).toMatchObject({ phase: "travelling", kind: "sided", name: "Pairs" });
    const members = [...test.room(room).members.values()];
    expect(members.map(({ id, side }) => [id, side]).sort()).toEqual(
      [
        [ansel, "north"],
        [brisa, "south"],
      ].sort(),
    );
    expect(told(test, brisa ?? "").map(({ kind }) => kind)).toEqual(["ticket-changed", "ticket-ended", "into-room"]);
    expect(test.views.get(brisa ?? "")?.room?.id).toBe(room);
    expect(ticketOf(test, corin ?? "")).toMatchObject({ queue: "pairs", held: false });
    bringUp(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
    expect([...test.harbor.state.queues.matches.values()]).toMatchObject([{ room, forming: false }]);
  });

  it("takes in closer ones first, and others once both have waited long enough", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_175);
    test.pass(4_900);
    expect(ticketOf(test, ansel)).toBeDefined();
    // 175 apart is allowed after 5 s.
    test.pass(600);
    expect(ticketOf(test, ansel)).toBeUndefined();
  });

  it("ends with nobody found after its time, and says so", () => {
    const test = new TestHarbor();
    const ansel = test.connect("Ansel");
    search(test, ansel, 1_000);
    test.pass(30_000);
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "ticket-ended", cause: "nobody-found" });
    expect(search(test, ansel, 1_000).refused).toBeUndefined();
  });

  it.each([
    ["already-searching", (test: TestHarbor, player: string): void => void search(test, player, 1)],
    [
      "already-in-room",
      (test: TestHarbor, player: string): void => void test.ok({ do: "room.open", player, args: {} }),
    ],
    [
      "queue-closed",
      (test: TestHarbor): void => void test.ok({ do: "queue.set-mode", queue: "pairs", mode: "draining" }),
    ],
  ] as const)("is refused with %s", (code, before) => {
    const test = new TestHarbor();
    const ansel = test.connect("Ansel");
    before(test, ansel);
    expect(search(test, ansel, 1_000).refused?.code).toBe(code);
  });

  it("is refused at once when nothing could come of it, or what the rules look at is missing", () => {
    const test = new TestHarbor();
    const ansel = test.connect("Ansel");
    const join = (args: object): string =>
      test.refusal({ do: "queue.join", player: ansel, args: { queue: "pairs", ...args } }).code;
    expect(join({})).toBe("attribute-missing");
    expect(join({ attributes: { skill: "high" } })).toBe("attribute-invalid");
    expect(join({ attributes: { skill: 1 }, needs: [{ attribute: "build", oneOf: ["game-2"] }] })).toBe(
      "search-hopeless",
    );
    expect(join({ queue: "trios" })).toBe("queue-unknown");
  });

  it("is held while its player is away, goes on after that, and ends when the player does not come back", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    test.run({ do: "player.lose", player: ansel, connection: 1 });
    search(test, brisa, 1_000);
    test.pass(2_000);
    expect(ticketOf(test, ansel)).toMatchObject({ held: true });
    test.resume(ansel);
    test.pass(500);
    expect(ticketOf(test, ansel)).toBeUndefined();
    const corin = test.connect("Corin");
    search(test, corin, 9_000);
    test.run({ do: "player.lose", player: corin, connection: 1 });
    test.pass(5_000);
    expect(test.harbor.state.queues.tickets.size).toBe(0);
  });

  it("is over when its player goes into a room", () => {
    const test = new TestHarbor();
    const ansel = test.connect("Ansel");
    search(test, ansel, 1_000);
    test.ok({ do: "room.open", player: ansel, args: {} });
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "ticket-ended", cause: "went-elsewhere" });
  });

  it("survives a restart with its wait, and makes the same matches", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_175);
    test.pass(2_000);
    const harbor = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
    Object.assign(test, { harbor });
    test.ok({ do: "harbor.recover" });
    test.resume(ansel);
    test.resume(brisa);
    test.pass(2_500);
    expect(ticketOf(test, ansel)).toBeDefined();
    test.pass(1_000);
    expect(test.harbor.state.queues.matches.size).toBe(1);
  });
});

describe("a party", () => {
  const four = () => {
    const test = new TestHarbor(pairOfRules());
    return { test, players: ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name)) };
  };

  it("searches once all have agreed, and stays on one side", () => {
    const { test, players } = four();
    const [ansel = "", brisa = "", corin = "", dovie = ""] = players;
    search(test, ansel, 1_000, { with: [brisa] });
    expect(told(test, brisa).at(-1)).toMatchObject({ kind: "ticket-changed", ticket: { state: "asking" } });
    search(test, corin, 1_000);
    search(test, dovie, 1_000);
    test.pass(1_000);
    expect(test.harbor.state.queues.matches.size).toBe(0);
    const ticket = ticketOf(test, ansel)?.id ?? "";
    test.ok({ do: "queue.agree", player: brisa, args: { ticket, attributes: { skill: 1_010 } } });
    test.pass(500);
    const [made] = [...test.harbor.state.queues.matches.values()];
    expect(made?.sides.map((side) => [...side].sort())).toContainEqual([ansel, brisa].sort());
  });

  it("is called off when somebody does not agree in time, or says no", () => {
    const { test, players } = four();
    const [ansel = "", brisa = ""] = players;
    search(test, ansel, 1_000, { with: [brisa] });
    test.pass(30_000);
    expect(told(test, ansel).at(-1)).toMatchObject({ cause: "not-agreed", detail: "Brisa did not agree in time." });
    search(test, ansel, 1_000, { with: [brisa] });
    test.ok({ do: "queue.cancel", player: brisa, args: {} });
    expect(told(test, ansel).at(-1)).toMatchObject({ cause: "cancelled" });
  });

  it("is refused when it is too large, or names somebody twice or elsewhere", () => {
    const { test, players } = four();
    const [ansel = "", brisa = "", corin = ""] = players;
    expect(search(test, ansel, 1, { with: [brisa, corin] }).refused?.code).toBe("party-too-large");
    expect(search(test, ansel, 1, { with: [ansel] }).refused?.code).toBe("player-twice");
    expect(search(test, ansel, 1, { with: ["p_nobody000000"] }).refused?.code).toBe("player-unknown");
  });
});

describe("a match that comes to nothing", () => {
  it("puts its players back with the wait they had", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    const sinceMs = test.now;
    search(test, brisa, 1_000);
    test.pass(0);
    const room = test.harbor.state.players.byId.get(ansel)?.room ?? "";
    test.ok({ do: "queue.set-mode", queue: "pairs", mode: "paused" });
    // No instance comes up: the travel is given up in the end.
    test.pass(40_000);
    expect(test.harbor.state.rooms.byId.has(room)).toBe(false);
    expect(ticketOf(test, ansel)).toMatchObject({ sinceMs, held: false });
    expect(test.harbor.state.queues.byName.get("pairs")).toMatchObject({ matches: 0 });
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "ticket-changed", ticket: { state: "searching" } });
  });

  it("is not made while there is no instance for it", () => {
    const rules = testRules();
    const sluice = rules.pools.get("sluice");
    if (!sluice) throw new Error("no pool");
    const test = new TestHarbor({ ...rules, pools: new Map([["sluice", { ...sluice, max: 0 }]]) });
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_000);
    const from = test.journal.length;
    test.pass(6_500);
    expect(test.kinds(from).filter((kind) => kind === "queue.matched")).toHaveLength(0);
    expect(ticketOf(test, ansel)).toMatchObject({ sinceMs: test.now - 6_500 });
  });

  it("does not put back who left by itself", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_000);
    test.pass(0);
    test.ok({ do: "room.leave", player: ansel, args: {} });
    // With too few left the match comes to nothing: whoever is left searches on, whoever left does not.
    expect([ticketOf(test, ansel), ticketOf(test, brisa)]).toEqual([
      undefined,
      expect.objectContaining({ held: false }),
    ]);
    expect(test.harbor.state.players.byId.get(brisa)?.room).toBeNull();
  });
});

describe("operators", () => {
  it("pause a queue, in which nothing is matched, and let it go on", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_000);
    test.ok({ do: "queue.set-mode", queue: "pairs", mode: "paused" });
    test.pass(5_000);
    expect(test.harbor.state.queues.matches.size).toBe(0);
    expect(test.harbor.view().queues["pairs"]).toMatchObject({ mode: "paused", tickets: 2 });
    test.ok({ do: "queue.set-mode", queue: "pairs", mode: "open" });
    test.pass(500);
    expect(test.harbor.state.queues.matches.size).toBe(1);
  });

  it("change rules without losing tickets; who has no place under them any more is told", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_200, { attributes: { skill: 1_200, rank: 3 } });
    const rules = testRules();
    const pairs = rules.queues.get("pairs");
    if (!pairs) throw new Error("no queue");
    const match = { ...pairs.match, needs: [...pairs.match.needs, { attribute: "rank", from: 1 }] };
    const changed = { ...rules, queues: new Map([["pairs", { ...pairs, match }]]) };
    Object.assign(test, { harbor: Harbor.fromSnapshot(changed, test.harbor.snapshot()) });
    test.pass(500);
    expect(told(test, ansel).at(-1)).toMatchObject({ cause: "refused" });
    expect(ticketOf(test, brisa)).toBeDefined();
  });
});

describe("explanations", () => {
  it("say how many remain after each rule, who is nearest and why not, and when waiting helps", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    search(test, ansel ?? "", 1_000);
    search(test, brisa ?? "", 1_175);
    search(test, corin ?? "", 4_000);
    test.pass(2_000);
    const { harbor, now } = test;
    const why = explainTicket(harbor.state, harbor.rules, ticketOf(test, ansel ?? "")?.id ?? "", now);
    expect(why?.funnel.map(({ rule, left }) => [rule, left])).toEqual([
      ["waiting", 2],
      ["build", 2],
      ["party size", 2],
      ["requirements", 2],
      ["skill", 0],
    ]);
    expect(why?.tolerances).toEqual([{ rule: "skill", now: 100, max: 300, maxAfterS: expect.any(Number), unit: "" }]);
    expect(why?.nearest[0]).toMatchObject({ ticket: ticketOf(test, brisa ?? "")?.id, falls: "skill" });
    expect(why?.next).toMatchObject({ inS: 3, more: 1 });
    expect(why?.estimate).toBeUndefined();
    expect(why?.text.join(" ")).toContain("not known yet");
  });

  it("say of a match why these, on which sides and how good", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_020);
    test.pass(500);
    const [match = ""] = [...test.harbor.state.queues.matches.keys()];
    const why = explainMatch(test.harbor.state, match);
    expect(why?.match.quality.spread).toEqual({ skill: 20 });
    expect(why?.text).toContain("Side 1: Ansel.");
  });

  it("give an estimate once enough have been matched, from waits that were real", () => {
    const rules = testRules();
    const sluice = rules.pools.get("sluice");
    if (!sluice) throw new Error("no pool");
    const roomy = { ...sluice, max: 20, ports: { from: 7_500, to: 7_599 } };
    const test = new TestHarbor({ ...rules, pools: new Map([...rules.pools, ["sluice", roomy]]) });
    for (let n = 0; n < 4; n++) {
      const [one, other] = [test.connect(`One ${n}`), test.connect(`Other ${n}`)];
      search(test, one, 1_000);
      test.pass(1_000 * n);
      search(test, other, 1_000);
      test.pass(500);
      const room = test.harbor.state.players.byId.get(one)?.room ?? "";
      // A match that is not played says nothing of how long one waits.
      expect(test.harbor.state.queues.byName.get("pairs")?.waits.length).toBe(4 * n);
      bringUp(test, room);
      boardAll(test, room);
      for (const player of [one, other]) test.run({ do: "room.leave", player, args: {} });
      test.pass(3_000);
    }
    const last = test.connect("Last");
    const { reply } = search(test, last, 1_000);
    const { ticket } = reply as { ticket: { estimate?: { from: number; alike: boolean; p75S: number } } };
    expect(ticket.estimate).toMatchObject({ from: 8, alike: true });
    expect(ticket.estimate?.p75S).toBeLessThanOrEqual(3.5);
  });
});
