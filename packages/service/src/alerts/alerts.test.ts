import { afterEach, describe, expect, it, vi } from "vitest";
import { Alerts as AlertsConfig } from "../config/alerts.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { Alerts } from "./alerts.ts";
import type { Counts, Readings } from "./readings.ts";

afterEach(endAll);

const NONE: Counts = {
  commits: 0,
  slowCommits: 0,
  snapshotFailures: 0,
  playersLost: 0,
  matchesMade: {},
  matchesUndone: {},
  travels: 0,
  travelsFailed: 0,
  wrongKeys: 0,
  keysInTwoPlaces: 0,
};

/** A service in which all is well, but for what is given. */
const at = (
  atS: number,
  { counts, ...more }: Partial<Omit<Readings, "counts">> & { counts?: Partial<Counts> } = {},
): Readings => ({
  atMs: atS * 1_000,
  halted: undefined,
  journalFault: undefined,
  diskUsed: 0.4,
  loopLagS: 0.001,
  connections: 100,
  players: { count: 100, limit: 1_000 },
  queues: [{ id: "crews" }],
  pools: [{ id: "sluice", held: 3, max: 20, idle: 2, failures: 0, mode: "open" }],
  machines: [{ id: "here", isThere: true }],
  webhooks: [{ name: "backend", dead: 0 }],
  ...more,
  counts: { ...NONE, ...counts },
});

const raisedBy = (config: unknown, readings: readonly Readings[]) => {
  const alerts = new Alerts(AlertsConfig.parse(config));
  for (const one of readings) alerts.look(one);
  return alerts.raised;
};

describe("alerts", () => {
  it("are none while all is well", () => {
    expect(raisedBy({}, [at(0), at(5), at(4_000)])).toEqual([]);
  });

  it.each<[string, Partial<Readings>, string]>([
    [
      "harbor-halted",
      { halted: { text: "Nothing is taken: the disk is full.", remedy: "Make room." } },
      "Nothing is taken: the disk is full.",
    ],
    ["journal-damaged", { journalFault: "event 12 is not what was written" }, "event 12"],
    ["disk-nearly-full", { diskUsed: 0.96 }, "used to 96 %"],
    ["loop-held", { loopLagS: 0.4 }, "held up for 400 ms"],
    ["nearly-full", { players: { count: 950, limit: 1_000 } }, "950 of the 1000 players"],
    [
      "pool-full",
      { pools: [{ id: "sluice", held: 20, max: 20, idle: 0, failures: 0, mode: "open" }] },
      "Rooms hold 20 of the 20 instances that pool sluice may run.",
    ],
    [
      "instances-fail",
      { pools: [{ id: "sluice", held: 0, max: 20, idle: 0, failures: 3, mode: "open" }] },
      "The last 3 instances of pool sluice failed",
    ],
    [
      "planner-paused",
      { pools: [{ id: "sluice", held: 0, max: 20, idle: 0, failures: 0, mode: "paused" }] },
      "The planner of pool sluice is paused.",
    ],
    [
      "machine-gone",
      { machines: [{ id: "north", isThere: false, why: "its connection closed" }] },
      "Machine north cannot be reached: its connection closed.",
    ],
    ["webhook-gave-up", { webhooks: [{ name: "backend", dead: 1 }] }, "1 event was put aside for webhook backend."],
  ])("tell of %s once it has lasted", (alert, what, text) => {
    const first = raisedBy({}, [at(0, what)]);
    const later = raisedBy({}, [at(0, what), at(3_600, what)]);
    expect(later).toMatchObject([{ alert, text: expect.stringContaining(text) }]);
    expect(later[0]?.remedy).not.toBe("");
    expect(raisedBy({ [alert]: { off: true } }, [at(0, what), at(3_600, what)])).toEqual([]);
    expect(raisedBy({ [alert]: { over: 1_000_000 } }, [at(0, what), at(3_600, what)])).toEqual([]);
    // What lasts is raised at once where it need not last.
    expect(first.length).toBe(AlertsConfig.parse({})[alert as "loop-held"].forS === 0 ? 1 : 0);
  });

  it.each<[string, Partial<Counts>, Partial<Counts>, string]>([
    ["journal-slow", {}, { commits: 100, slowCommits: 5 }, "5 of 100 commits took more than 0.25 s"],
    ["snapshots-fail", { snapshotFailures: 2 }, { snapshotFailures: 3 }, "1 snapshot could not be made"],
    ["players-lost", { playersLost: 10 }, { playersLost: 60 }, "50 players have lost their connection"],
    [
      "matches-undone",
      { matchesMade: { crews: 2 } },
      { matchesMade: { crews: 12 }, matchesUndone: { crews: 5 } },
      "5 of 10 matches of queue crews came to nothing",
    ],
    ["travels-fail", { travels: 100 }, { travels: 110, travelsFailed: 4 }, "4 of 10 travels failed"],
    ["wrong-keys", {}, { wrongKeys: 60 }, "60 wrong keys were shown"],
    ["key-in-two-places", {}, { keysInTwoPlaces: 1 }, "1 time in the last hour"],
  ])("tell of %s by what was counted lately, and end when it is long ago", (alert, before, now, text) => {
    const alerts = new Alerts(AlertsConfig.parse({ [alert]: { forS: 0 } }));
    alerts.look(at(0, { counts: before }));
    expect(alerts.look(at(60, { counts: now })).raised).toMatchObject([{ alert, text: expect.stringContaining(text) }]);
    // The same counts, two hours on: nothing has happened lately.
    for (let s = 65; s <= 7_300; s += 5) alerts.look(at(s, { counts: now }));
    expect(alerts.raised).toEqual([]);
  });

  it("are raised once and cleared once, and begin anew when they come back", () => {
    const alerts = new Alerts(AlertsConfig.parse({ "searches-wait": { over: 10, forS: 20 } }));
    const waits = (atS: number) => at(atS, { queues: [{ id: "crews", oldestSinceMs: 0 }] });
    expect(alerts.look(waits(5))).toEqual({ raised: [], cleared: [] });
    expect(alerts.look(waits(15)).raised).toEqual([]);
    expect(alerts.look(waits(35)).raised).toMatchObject([
      { alert: "searches-wait", subject: "crews", sinceMs: 15_000 },
    ]);
    expect(alerts.look(waits(40))).toEqual({ raised: [], cleared: [] });
    expect(alerts.look(at(45)).cleared).toMatchObject([{ alert: "searches-wait" }]);
    expect(alerts.look(waits(50)).raised).toEqual([]);
    expect(alerts.look(waits(75)).raised).toMatchObject([{ sinceMs: 50_000 }]);
  });

  it("name those first that wake somebody", () => {
    const what = {
      webhooks: [{ name: "backend", dead: 1 }],
      halted: { text: "Nothing is taken.", remedy: "Restart." },
    };
    expect(raisedBy({}, [at(0, { webhooks: what.webhooks }), at(60, what)]).map(({ alert }) => alert)).toEqual([
      "harbor-halted",
      "webhook-gave-up",
    ]);
  });
});

describe("a service", () => {
  it("tells of an alert in its status, its readiness, over HTTP and in its metrics", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({
        ...config,
        alerts: AlertsConfig.parse({ "nearly-full": { over: 0, forS: 0 } }),
      })),
    );
    await service.player("Ansel");
    await vi.waitUntil(async () => (await service.operator.alerts()).alerts.length > 0, { timeout: 30_000 });
    const alert = {
      alert: "nearly-full",
      severity: "look",
      text: "1 of the 10000 players that are taken are here or away.",
    };
    expect(await service.operator.alerts()).toMatchObject({ alerts: [alert] });
    expect((await service.operator.status()).alerts).toMatchObject([alert]);
    const readiness = await (await fetch(`${service.url}/readyz`)).json();
    expect(readiness).toMatchObject({ ok: true, state: "ready", alerts: ["nearly-full"] });
    const metrics = await (await fetch(`${service.url}/metrics`)).text();
    expect(metrics).toContain('yh_alert{alert="nearly-full",subject=""} 1');
  });
});
