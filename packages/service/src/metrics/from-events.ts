import type { EventKind, HarborEvent, HarborState } from "@yellow-harbor/core";
import type { RunId } from "@yellow-harbor/protocol";
import type { Metrics } from "./metrics.ts";

interface TravelTimes {
  readonly calledAtMs: number;
  readyAtMs: number;
}

interface Seen {
  readonly metrics: Metrics;
  readonly state: HarborState;
  readonly atMs: number;
  /** Travels that are under way, from when this process heard of them. */
  readonly travels: Map<RunId, TravelTimes>;
}

type Count<K extends EventKind> = (event: Extract<HarborEvent, { kind: K }>, seen: Seen) => void;

/** What is counted of each kind of event beside that it happened. */
const counts: { readonly [K in EventKind]?: Count<K> } = {
  "player.connected": (_event, { metrics }) => metrics.count("yh_players_connected_total", {}),
  "player.resumed": (_event, { metrics }) => metrics.count("yh_players_resumed_total", {}),
  "player.lost": (_event, { metrics }) => metrics.count("yh_players_lost_total", {}),
  "player.left": ({ reason }, { metrics }) => metrics.count("yh_players_left_total", { reason }),

  "room.set-up": ({ roomKind }, { metrics }) => metrics.count("yh_rooms_opened_total", { room_kind: roomKind }),
  "room.opened": ({ roomKind }, { metrics }) => metrics.count("yh_rooms_opened_total", { room_kind: roomKind }),
  "room.closed": (_event, { metrics }) => metrics.count("yh_rooms_closed_total", {}),
  "room.result-set": (_event, { metrics }) => metrics.count("yh_matches_played_total", {}),

  "travel.called": ({ run }, { travels, atMs }) => void travels.set(run, { calledAtMs: atMs, readyAtMs: atMs }),
  "travel.boarding": ({ run }, { travels, atMs }) => {
    const times = travels.get(run);
    if (times) times.readyAtMs = atMs;
  },
  "travel.completed": ({ run }, { metrics, travels, atMs }) => {
    metrics.count("yh_travels_total", { outcome: "completed" });
    const times = travels.get(run);
    travels.delete(run);
    if (times === undefined) return;
    const { calledAtMs, readyAtMs } = times;
    metrics.observe("yh_travel_seconds", { step: "prepare" }, seconds(readyAtMs - calledAtMs));
    metrics.observe("yh_travel_seconds", { step: "board" }, seconds(atMs - readyAtMs));
    metrics.observe("yh_travel_seconds", { step: "all" }, seconds(atMs - calledAtMs));
  },
  "travel.failed": ({ run, code, aborted }, { metrics, travels }) => {
    travels.delete(run);
    metrics.count("yh_travels_total", { outcome: aborted ? "aborted" : "failed" });
    if (!aborted) metrics.count("yh_travel_failures_total", { code });
  },

  "queue.ticket-ended": ({ queue, cause }, { metrics }) => metrics.count("yh_tickets_ended_total", { queue, cause }),
  "queue.matched": ({ queue, match, quality }, { metrics, state, atMs }) => {
    metrics.count("yh_matches_made_total", { queue });
    for (const { sinceMs } of state.queues.matches.get(match)?.tickets ?? []) {
      if (sinceMs !== null) metrics.observe("yh_queue_wait_seconds", { queue }, seconds(atMs - sinceMs));
    }
    const { worstLatencyMs, spread } = quality;
    if (worstLatencyMs !== null) metrics.observe("yh_match_worst_latency_seconds", { queue }, seconds(worstLatencyMs));
    for (const [attribute, difference] of Object.entries(spread)) {
      metrics.observe("yh_match_spread", { queue, attribute }, difference);
    }
  },
  "queue.undone": ({ queue }, { metrics }) => metrics.count("yh_matches_undone_total", { queue }),

  "instance.launched": ({ pool }, { metrics }) => metrics.count("yh_instances_launched_total", { pool }),
  "instance.opened": ({ instance: id }, { metrics, state, atMs }) => {
    const instance = state.pools.instances.get(id);
    if (instance === undefined) return;
    const { pool, launchedAtMs } = instance;
    metrics.observe("yh_instance_boot_seconds", { pool }, seconds(atMs - launchedAtMs));
  },
  "instance.failed": ({ instance }, seen) => countFailure(instance, seen),
  "instance.exited": ({ instance, first }, seen) => {
    if (first) countFailure(instance, seen);
  },
};

function countFailure(instance: string, { metrics, state }: Seen): void {
  const pool = state.pools.instances.get(instance)?.pool;
  if (pool !== undefined) metrics.count("yh_instances_failed_total", { pool });
}

const seconds = (ms: number) => Math.max(0, ms) / 1_000;

/** Counts what happened, once it is durable. */
export class EventCounts {
  readonly #metrics: Metrics;
  readonly #travels = new Map<RunId, TravelTimes>();

  constructor(metrics: Metrics) {
    this.#metrics = metrics;
  }

  /** `state` is that of some moment after the event. */
  take(event: HarborEvent, atMs: number, state: HarborState): void {
    this.#metrics.tally("yh_events_total", "kind", event.kind);
    const count = counts[event.kind] as Count<EventKind> | undefined;
    count?.(event, { metrics: this.#metrics, state, atMs, travels: this.#travels });
  }
}
