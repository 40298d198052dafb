import type { HarborEvent, HarborState } from "@yellow-harbor/core";
import type { GatewayMeter } from "../gateway/meter.ts";
import type { RuntimeMeter } from "../runtime/meter.ts";
import { EventCounts } from "./from-events.ts";
import type { Metrics } from "./metrics.ts";

/** Hears of each event once it is durable; `state` is that of some moment after it. Nothing of it may throw. */
export type EventObserver = (
  event: HarborEvent,
  at: { readonly atMs: number; readonly seq: number },
  state: HarborState,
) => void;

/** Measures the runtime of a harbor, whose state is asked for once something has happened in it. */
export function runtimeMeter(
  metrics: Metrics,
  observers: readonly EventObserver[],
  stateNow: () => HarborState,
): RuntimeMeter {
  const counts = new EventCounts(metrics);
  return {
    deadline: (tookMs) => metrics.observe("yh_deadline_seconds", {}, tookMs / 1_000),
    appended: (rows, events, tookMs) => {
      metrics.observe("yh_journal_append_seconds", {}, tookMs / 1_000);
      metrics.observe("yh_journal_batch_events", {}, rows.length);
      const bytes = rows.reduce((sum, { body }) => sum + body.length, 0);
      metrics.count("yh_journal_bytes_total", {}, bytes);
      const state = stateNow();
      for (const [n, event] of events.entries()) {
        const { atMs = 0, seq = 0 } = rows[n] ?? {};
        counts.take(event, atMs, state);
        for (const observe of observers) observe(event, { atMs, seq }, state);
      }
    },
    snapshot: (isMade) => metrics.count(isMade ? "yh_snapshots_total" : "yh_snapshot_failures_total", {}),
  };
}

/** Measures the players' side of a harbor. */
export const gatewayMeter = (metrics: Metrics): GatewayMeter => ({
  answered: (request, tookMs) => {
    metrics.tally("yh_requests_total", "request", request);
    metrics.observe("yh_request_seconds", {}, tookMs / 1_000);
  },
  refused: (code) => metrics.count("yh_refusals_total", { to: "player", code }),
});
