import { statfs } from "node:fs/promises";
import { monitorEventLoopDelay } from "node:perf_hooks";
import { machineViews, poolView, queueSummary } from "@yellow-harbor/core";
import type { AlertView, WebhookView } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { Metrics } from "../metrics/metrics.ts";
import { every } from "../runtime/every.ts";
import { failureDetail, failureRemedy } from "../runtime/failure.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { AlertChange, Alerts } from "./alerts.ts";
import type { Counts, Readings } from "./readings.ts";

const LOOK_EVERY_MS = 5_000;
/** A commit that takes longer is slow, in seconds; one of the buckets of its histogram. */
const SLOW_S = 0.25;
const LOOP_RESOLUTION_MS = 50;
const NS_PER_S = 1e9;

export interface AlertSources {
  readonly alerts: Alerts;
  readonly metrics: Metrics;
  readonly runtime: HarborRuntime;
  readonly dataFolder: string;
  readonly log: Logger;
  readonly connectionCount: () => number;
  readonly webhooks: () => readonly WebhookView[];
  readonly wrongKeys: () => number;
  readonly keysInTwoPlaces: () => number;
  readonly journalFault: () => string | undefined;
  /** Hears of each change once it was logged. */
  readonly changed: (change: AlertChange) => Promise<void>;
}

/** Looks at the service every few seconds, and says when somebody should. Returns how to stop it. */
export function watchForAlerts(sources: AlertSources): () => void {
  const { alerts, log, changed } = sources;
  const loop = monitorEventLoopDelay({ resolution: LOOP_RESOLUTION_MS });
  loop.enable();
  let isOver = false;
  const stop = every(LOOK_EVERY_MS, "looking for alerts", log, async () => {
    const late = Math.max(0, loop.percentile(99) / NS_PER_S - LOOP_RESOLUTION_MS / 1_000);
    loop.reset();
    const readings = await readingsOf(sources, late);
    // The service has begun to stop meanwhile: what it is told then is no fault of it.
    if (isOver) return;
    const change = alerts.look(readings);
    for (const alert of change.raised) log.warn(inLog(alert), `alert raised: ${alert.text}`);
    for (const alert of change.cleared) log.info(inLog(alert), "alert cleared");
    if (change.raised.length + change.cleared.length > 0) await changed(change);
  });
  return () => {
    isOver = true;
    stop();
    loop.disable();
  };
}

const inLog = ({ alert, subject, severity, value, over, remedy }: AlertView) => ({
  alert,
  ...(subject !== undefined && { subject }),
  severity,
  value,
  over,
  remedy,
});

async function readingsOf(sources: AlertSources, loopLagS: number): Promise<Readings> {
  const { runtime, dataFolder, connectionCount, webhooks, journalFault } = sources;
  const { failure } = runtime;
  const [counts, diskUsed, state] = await Promise.all([countsOf(sources), usedOf(dataFolder), stateOf(runtime)]);
  return {
    atMs: Date.now(),
    halted: failure && { text: `Nothing is taken: ${failureDetail(failure)}.`, remedy: failureRemedy[failure.what] },
    journalFault: journalFault(),
    diskUsed,
    loopLagS,
    connections: connectionCount(),
    webhooks: webhooks(),
    counts,
    ...state,
  };
}

const NOTHING = { players: { count: 0, limit: 1 }, queues: [], pools: [], machines: [] };

/** What the state says. While nothing is taken it says nothing. */
async function stateOf(runtime: HarborRuntime): Promise<Pick<Readings, "players" | "queues" | "pools" | "machines">> {
  try {
    return await runtime.query(({ state, rules }, atMs) => ({
      players: { count: state.players.byId.size, limit: rules.players.limit },
      queues: [...rules.queues.keys()].map((queue) => queueSummary(state, rules, queue)),
      pools: [...rules.pools.keys()].flatMap((pool) => poolView(state, rules, pool, atMs) ?? []),
      // One of a group comes and goes as it likes, while nothing runs on it.
      machines: machineViews(state, rules).filter(({ group, running }) => group === undefined || running > 0),
    }));
  } catch {
    return NOTHING;
  }
}

/** Share of the disk that is used, of what is for everybody. */
async function usedOf(folder: string): Promise<number | undefined> {
  try {
    const { blocks, bfree, bavail } = await statfs(folder);
    const used = blocks - bfree;
    return used + bavail === 0 ? undefined : used / (used + bavail);
  } catch {
    return undefined;
  }
}

async function countsOf({ metrics, wrongKeys, keysInTwoPlaces }: AlertSources): Promise<Counts> {
  const [commits, snapshotFailures, playersLost, made, undone, travels] = await Promise.all([
    metrics.histogram("yh_journal_append_seconds", SLOW_S),
    metrics.total("yh_snapshot_failures_total"),
    metrics.total("yh_players_lost_total"),
    metrics.totals("yh_matches_made_total", "queue"),
    metrics.totals("yh_matches_undone_total", "queue"),
    metrics.totals("yh_travels_total", "outcome"),
  ]);
  return {
    commits: commits.count,
    slowCommits: commits.over,
    snapshotFailures,
    playersLost,
    matchesMade: made,
    matchesUndone: undone,
    travels: Object.values(travels).reduce((sum, count) => sum + count, 0),
    travelsFailed: travels["failed"] ?? 0,
    wrongKeys: wrongKeys(),
    keysInTwoPlaces: keysInTwoPlaces(),
  };
}
