import type { HarborState } from "@yellow-harbor/core";
import type { GatewayMeter } from "../gateway/meter.ts";
import type { RuntimeMeter } from "../runtime/meter.ts";
import type { Tracing } from "../tracing/tracing.ts";
import { EventCounts } from "./from-events.ts";
import type { Metrics } from "./metrics.ts";

/** Measures the runtime of a harbor, whose state is asked for once something has happened in it. */
export function runtimeMeter(
  metrics: Metrics,
  tracing: Pick<Tracing, "happened"> | undefined,
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
        const atMs = rows[n]?.atMs ?? 0;
        counts.take(event, atMs, state);
        tracing?.happened(event, atMs, state);
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
