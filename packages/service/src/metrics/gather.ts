import { type AlertView, type WebhookView, WIRE_VERSION, type WorkerView } from "@yellow-harbor/protocol";
import type { RelayFigures } from "../gateway/instance-relay.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import { setFromState } from "./from-state.ts";
import type { Figures } from "./metrics.ts";

/** Where the service's own figures are read. */
export interface MetricSources {
  readonly version: string;
  readonly runtime: HarborRuntime;
  readonly isReady: () => boolean;
  readonly connectionCount: () => number;
  readonly waitingCount: () => number;
  readonly watcherCount: () => number;
  readonly wrongKeys: () => number;
  readonly keysInTwoPlaces: () => number;
  /** Undefined where instances are not reached through the service. */
  readonly relayFigures: () => RelayFigures | undefined;
  /** Processes that have sockets of players; none where all are in this one. */
  readonly workers: () => readonly WorkerView[];
  readonly alerts: () => readonly AlertView[];
  readonly webhooks: () => readonly WebhookView[];
  readonly isJournalDamaged: () => boolean;
}

/** Reads what is so now. While nothing is taken there is no state to tell of, and the rest is told all the same. */
export async function gather(sources: MetricSources, { set, setTotal }: Figures): Promise<void> {
  const { runtime, version } = sources;
  set("yh_info", [{ version, wire: String(WIRE_VERSION) }, 1]);
  const { failure } = runtime;
  set("yh_ready", [{}, sources.isReady() && failure === undefined ? 1 : 0]);
  for (const what of ["away", "fenced", "core"] as const) {
    set("yh_failed", [{ failure: what }, failure?.what === what ? 1 : 0]);
  }
  set("yh_connections", [{}, sources.connectionCount()]);
  set("yh_waiting_players", [{}, sources.waitingCount()]);
  set("yh_watchers", [{}, sources.watcherCount()]);
  for (const { number, connections, memoryBytes, cpuSeconds, loopDelayMs } of sources.workers()) {
    const labels = { worker: String(number) };
    set("yh_worker_sockets", [labels, connections]);
    if (memoryBytes !== undefined) set("yh_worker_memory_bytes", [labels, memoryBytes]);
    if (cpuSeconds !== undefined) set("yh_worker_cpu_seconds", [labels, cpuSeconds]);
    if (loopDelayMs !== undefined) set("yh_worker_loop_delay_seconds", [labels, loopDelayMs / 1_000]);
  }
  const relay = sources.relayFigures();
  if (relay) {
    set("yh_relay_connections", [{}, relay.connections]);
    setTotal("yh_relay_bytes_to_instances_total", relay.bytesToInstances);
    setTotal("yh_relay_bytes_to_players_total", relay.bytesToPlayers);
  }
  setTotal("yh_wrong_keys_total", sources.wrongKeys());
  setTotal("yh_keys_in_two_places_total", sources.keysInTwoPlaces());
  for (const { alert, subject = "" } of sources.alerts()) set("yh_alert", [{ alert, subject }, 1]);
  for (const { name: webhook, waiting, oldestAtMs, dead } of sources.webhooks()) {
    set("yh_webhook_waiting", [{ webhook }, waiting]);
    const age = oldestAtMs === undefined ? 0 : Math.max(0, Date.now() - oldestAtMs) / 1_000;
    set("yh_webhook_oldest_seconds", [{ webhook }, age]);
    set("yh_webhook_dead", [{ webhook }, dead]);
  }
  set("yh_journal_damaged", [{}, sources.isJournalDamaged() ? 1 : 0]);
  set("yh_snapshot_behind_events", [{}, runtime.behindSnapshot]);
  set("yh_commands_waiting", [{}, runtime.underWay]);
  try {
    await runtime.query((harbor, atMs) => setFromState(harbor, atMs, set));
  } catch {
    // It has failed meanwhile: yh_failed says so with the next answer.
  }
  const { seq, waiting } = runtime.journalStatus;
  set("yh_journal_sequence", [{}, seq]);
  set("yh_journal_waiting", [{}, waiting]);
}
