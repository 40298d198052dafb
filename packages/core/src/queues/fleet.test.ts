import type { MachineRules, PoolRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import type { MatchRules } from "../matching/index.ts";
import type { Instance } from "../model/pools/state.ts";
import type { HarborRules } from "../model/rules.ts";
import { testMachine, testRules } from "../testing/rules.ts";
import { boardAll, bringUp, instanceOf, runOf } from "../testing/scenes.ts";
import { search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainMatch, explainTicket } from "./explain.ts";

describe("a queue whose pool is full", () => {
  it("makes no match until there is somewhere to play it, and says so", () => {
    const test = new TestHarbor();
    const pairs = Array.from(
      { length: 5 },
      (_, n) => [test.connect(`Ansel ${n}`), test.connect(`Brisa ${n}`)] as const,
    );
    for (const [n, pair] of pairs.entries()) for (const player of pair) search(test, player, 1_000 * (n + 1));
    test.pass(500);
    const rooms = () => pairs.flatMap(([one]) => test.harbor.state.players.byId.get(one)?.room ?? []);
    const places = rooms().length;
    expect(places).toBeLessThan(5);
    const [waits = ""] = pairs.map(([one]) => one).filter((one) => ticketOf(test, one) !== undefined);
    test.pass(10_000);
    // Whoever waits was never thrown into a room and out again, and can read why.
    expect(told(test, waits).filter(({ kind }) => kind !== "ticket-changed")).toEqual([]);
    const { text } =
      explainTicket(test.harbor.state, test.harbor.rules, ticketOf(test, waits)?.id ?? "", test.now) ?? {};
    expect(text?.join(" ")).toMatch(/there is nowhere to play it: pool sluice runs 3 of the 3 instances it may/);
    // The pool has a place again once a match is over.
    const [room = ""] = rooms();
    const instance = instanceOf(test, room);
    bringUp(test, room);
    test.ok({ do: "room.dissolve", room, reason: "maintenance", by: "operator" });
    test.ok({ do: "instance.exited", instance, exitCode: 0, signal: null });
    test.pass(6_000);
    expect(ticketOf(test, waits)).toBeUndefined();
  });
});

const machine = (region: string | null, max: number): MachineRules => testMachine({ region, max });

/** Rules whose pairs look at latency, with these machines for their pool. */
function regionRules(machines: Readonly<Record<string, MachineRules>>, change: Partial<PoolRules> = {}): HarborRules {
  const rules = testRules();
  const latency: MatchRules["latency"] = {
    regions: ["north", "south"],
    ceilingMs: [
      [0, 80],
      [30, 120],
    ],
  };
  const queues = [...rules.queues].map(
    ([id, queue]) => [id, { ...queue, match: { ...queue.match, latency } }] as const,
  );
  const pools = [...rules.pools].map(
    ([id, pool]) => [id, { ...pool, machines: Object.keys(machines), max: 10, ...change }] as const,
  );
  return { ...rules, queues: new Map(queues), pools: new Map(pools), machines: new Map(Object.entries(machines)) };
}

const near = (north: number, south: number) => ({ latencyMs: { north, south } });

function pair(test: TestHarbor, n: number, latency: object): readonly [string, string] {
  const pair = [test.connect(`Ansel ${n}`), test.connect(`Brisa ${n}`)] as const;
  for (const player of pair) search(test, player, 1_000 * (n + 1), latency);
  return pair;
}

const roomOf = (test: TestHarbor, player: string) => test.harbor.state.players.byId.get(player)?.room ?? "";

function comeUp(test: TestHarbor, { id: instance, address: { port } }: Instance): void {
  test.ok({ do: "instance.spawned", instance, pid: port });
  test.ok({ do: "instance.announce", instance, port, pid: undefined });
  test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
}

const textFor = (test: TestHarbor, player: string) =>
  explainTicket(test.harbor.state, test.harbor.rules, ticketOf(test, player)?.id ?? "", test.now)?.text.join(" ") ?? "";

describe("a queue that looks at latency", () => {
  it("plays where a machine can be had, within what its players accept, and says what was taken instead", () => {
    const test = new TestHarbor(regionRules({ "north-1": machine("north", 1), "south-1": machine("south", 5) }));
    const pairs = [0, 1].map((n) => pair(test, n, near(20, 60)));
    test.pass(500);
    const placed = pairs.map(([one]) => test.instance(instanceOf(test, roomOf(test, one))));
    expect(placed.map(({ region }) => region)).toEqual(["north", "south"]);
    const [, second = ""] = [...test.harbor.state.queues.matches.keys()];
    const { match, text } = explainMatch(test.harbor.state, second) ?? {};
    expect(match).toMatchObject({ region: "south", quality: { worstLatencyMs: 60 } });
    expect(text?.join(" ")).toContain("and where a place was free. It may also be played at north.");
  });

  it("launches where the match was made for, though an instance farther off is open", () => {
    const machines = { "south-1": machine("south", 5), "north-1": machine("north", 5) };
    const test = new TestHarbor(regionRules(machines));
    test.run({ do: "pool.launch-ahead", pool: "sluice", why: "wanted" });
    const ready = [...test.harbor.state.pools.instances.values()].find(({ pool }) => pool === "sluice");
    if (ready === undefined) throw new Error("none was launched ahead");
    comeUp(test, ready);
    const far = ready.region === "south";
    const [one] = pair(test, 0, far ? near(20, 60) : near(60, 20));
    test.pass(500);
    const held = test.instance(instanceOf(test, roomOf(test, one)));
    expect([held.id === ready.id, held.region]).toEqual([false, far ? "north" : "south"]);
    const [match = ""] = [...test.harbor.state.queues.matches.keys()];
    expect(explainMatch(test.harbor.state, match)?.text.at(-1)).toBe(`Its instance ${held.id} runs in ${held.region}.`);
  });

  it("makes no match for players who reach full regions alone, and tells them which and why", () => {
    const test = new TestHarbor(regionRules({ "north-1": machine("north", 1), "south-1": machine("south", 5) }));
    pair(test, 0, near(20, 200));
    test.pass(500);
    const [waits] = pair(test, 1, near(20, 200));
    const [other] = pair(test, 2, near(200, 20));
    test.pass(10_000);
    expect(ticketOf(test, other)).toBeUndefined();
    expect(told(test, waits).filter(({ kind }) => kind !== "ticket-changed")).toEqual([]);
    const text = textFor(test, waits);
    expect(text).toContain("No match is made at north: pool sluice: machine north-1 runs 1 of the 1 instances it may.");
    expect(text).toContain("0 left after latency: a common region with a free place, below");
    expect(text).not.toContain("at south");
  });

  it("makes none at all where no machine stands in reach", () => {
    const test = new TestHarbor(regionRules({ "south-1": machine("south", 5) }));
    const [waits] = pair(test, 0, near(20, 200));
    test.pass(10_000);
    expect(ticketOf(test, waits)).toBeDefined();
    expect(textFor(test, waits)).toContain("No match is made at north: pool sluice has no machine there.");
  });

  it("keeps a room within reach for all of its runs, and never moves it far off in silence", () => {
    const test = new TestHarbor(regionRules({ "north-1": machine("north", 1), "far-1": machine("far", 5) }));
    const [one, other] = pair(test, 0, near(20, 200));
    test.pass(500);
    const room = roomOf(test, one);
    bringUp(test, room);
    boardAll(test, room);
    const first = instanceOf(test, room);
    test.ok({ do: "instance.report", instance: first, run: runOf(test, room), standings: [], note: undefined });
    test.pass(5_000);
    // Its instance goes, and the one machine in reach is taken by somebody else.
    test.ok({ do: "instance.exited", instance: first, exitCode: 0, signal: null });
    test.pass(20_000);
    pair(test, 1, near(20, 200));
    test.pass(500);
    for (const player of [one, other]) test.run({ do: "room.ready", player, args: { ready: true } });
    test.run({ do: "room.start", player: one, args: {} });
    test.pass(1_000);
    const far = [...test.harbor.state.pools.instances.values()].filter(({ region }) => region === "far");
    expect(far).toEqual([]);
    const failed = test.journal.findLast(({ event }) => event.kind === "travel.failed")?.event;
    expect(failed).toMatchObject({ detail: "No machine takes one more: north-1 runs 1 of the 1 instances it may." });
  });

  it("plays on machines that name no region, wherever its players are", () => {
    const test = new TestHarbor(regionRules({ here: machine(null, 5) }));
    const [one] = pair(test, 0, near(20, 200));
    test.pass(500);
    expect(test.instance(instanceOf(test, roomOf(test, one))).region).toBeNull();
  });

  it("makes no match for a pool whose instances do not come up, but one now and then to see whether they do", () => {
    const test = new TestHarbor(regionRules({ "north-1": machine("north", 5) }, { bootMs: 20_000 }));
    const pairs = [0, 1, 2, 3].map((n) => pair(test, n, near(20, 200)));
    const matched = () => test.journal.filter(({ event }) => event.kind === "queue.matched").length;
    let before = 0;
    const perMinute: number[] = [];
    for (let minute = 0; minute < 10; minute++) {
      for (let second = 0; second < 60; second++) {
        test.pass(1_000);
        for (const one of test.harbor.state.pools.instances.values()) {
          if (one.state === "launched") test.ok({ do: "instance.exited", instance: one.id, exitCode: 3, signal: null });
        }
      }
      for (const player of pairs.flat()) if (!ticketOf(test, player)) search(test, player, 1_000, near(20, 200));
      perMinute.push(matched() - before);
      before = matched();
    }
    // Every five minutes at the end.
    expect(perMinute.slice(5).reduce((sum, many) => sum + many, 0)).toBeLessThanOrEqual(2);
    const waits = pairs.flat().find((player) => ticketOf(test, player)) ?? "";
    expect(textFor(test, waits)).toMatch(
      /No match is made at north or south: the last \d+ instances of pool sluice never came up; one more is (tried in \d+ s|being tried)\./,
    );
    // Once one comes up all is as before.
    for (let second = 0; second < 330; second += 5) {
      for (const player of pairs.flat()) {
        if (!ticketOf(test, player) && roomOf(test, player) === "") search(test, player, 1_000, near(20, 200));
      }
      test.pass(5_000);
      for (const one of test.harbor.state.pools.instances.values()) {
        if (one.state === "launched") comeUp(test, one);
      }
    }
    expect(matched() - before).toBeGreaterThan(2);
  });
});
