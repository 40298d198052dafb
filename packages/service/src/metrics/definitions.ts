/** One thing that is measured. Names, units and suffixes are those of the OpenMetrics specification, version 1.0. */
export interface MetricDefinition {
  readonly type: "counter" | "gauge" | "histogram";
  readonly help: string;
  /** Each takes values from a list that is bounded: kinds and codes of the program, names of the configuration. */
  readonly labels?: readonly Label[];
  /** Upper bounds of a histogram's buckets. */
  readonly buckets?: readonly number[];
}

/** What each label says, and what bounds the values that it takes. */
export const labels = {
  kind: "kind of event",
  presence: "`here` or `away`",
  reason: "why: `left`, `lost` or `kicked`",
  lobby: "lobby of the configuration",
  room_kind: "room kind of the configuration",
  phase: "phase of a room",
  request: "request of the players' protocol",
  to: "who was refused: `player`, `operator`, `instance` or `socket`",
  code: "code of a problem",
  route: "row of the table of HTTP routes, or `none`",
  status: "class of the HTTP status: `2xx` to `5xx`",
  queue: "queue of the configuration",
  attribute: "attribute that a queue compares",
  cause: "why a search ended",
  step: "`prepare`, `board` or `all`",
  outcome: "`completed`, `failed` or `aborted`",
  pool: "pool of the configuration",
  state: "state of an instance",
  machine: "machine of the configuration, or of a group",
  failure: "`away`, `fenced` or `core`",
  webhook: "webhook of the configuration",
  result: "`ok`, `failed` (tried again) or `dead` (put aside)",
  alert: "alert of the configuration",
  subject: "queue, pool, machine or webhook of the configuration, or empty",
  version: "version of the service",
  wire: "version of the players' protocol",
  worker: "number of a worker, from 1 to `--workers` less one",
} as const;

type Label = keyof typeof labels;

/** From a tenth of a millisecond to ten seconds. */
const QUICK = [0.0001, 0.00025, 0.0005, 0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10];
/** From half a second to half an hour. */
const SLOW = [0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1_800];
const LATENCIES = [0.01, 0.02, 0.03, 0.05, 0.075, 0.1, 0.15, 0.2, 0.3, 0.5];
const SIZES = [1, 2, 5, 10, 25, 50, 100, 250, 500, 1_000, 5_000];
const SPREADS = [1, 5, 10, 25, 50, 100, 200, 400, 800, 1_600];

/** All that is measured of the service. What `prom-client` measures of the process comes beside it. */
export const definitions = {
  yh_info: { type: "gauge", help: "Always 1: what runs.", labels: ["version", "wire"] },
  yh_ready: { type: "gauge", help: "1 while players may be sent here, else 0: see /readyz." },
  yh_failed: { type: "gauge", help: "1 while nothing is taken, by what has failed.", labels: ["failure"] },
  yh_scrape_seconds: { type: "gauge", help: "Time that it took to gather the figures of this answer." },

  yh_waiting_players: { type: "gauge", help: "Players who wait in line for a place in the full harbor." },
  yh_connections: { type: "gauge", help: "Open connections of players' clients." },
  yh_watchers: { type: "gauge", help: "Operators who follow everything as it happens." },
  yh_players: { type: "gauge", help: "Players, by presence.", labels: ["presence"] },
  yh_players_limit: { type: "gauge", help: "Most players at once, by the configuration." },
  yh_lobby_players: { type: "gauge", help: "Players in no room, by lobby.", labels: ["lobby"] },
  yh_players_connected_total: { type: "counter", help: "Players who came." },
  yh_players_resumed_total: {
    type: "counter",
    help: "Times that players came back after they had lost their connection.",
  },
  yh_players_lost_total: { type: "counter", help: "Times that players lost their connection." },
  yh_players_left_total: { type: "counter", help: "Players who went, by why.", labels: ["reason"] },

  yh_requests_total: { type: "counter", help: "Requests of players, by request.", labels: ["request"] },
  yh_request_seconds: { type: "histogram", help: "From a player's request to its reply, durable.", buckets: QUICK },
  yh_refusals_total: { type: "counter", help: "Problems that were told, by whom and code.", labels: ["to", "code"] },
  yh_http_requests_total: { type: "counter", help: "Requests over HTTP.", labels: ["route", "status"] },

  yh_rooms: { type: "gauge", help: "Rooms, by phase.", labels: ["phase"] },
  yh_room_members: { type: "gauge", help: "Players in rooms." },
  yh_rooms_opened_total: { type: "counter", help: "Rooms that were opened, by kind.", labels: ["room_kind"] },
  yh_rooms_closed_total: { type: "counter", help: "Rooms that were closed." },
  yh_matches_played_total: { type: "counter", help: "Runs whose result was set." },

  yh_travels_under_way: { type: "gauge", help: "Rooms on their way to a level." },
  yh_travels_total: { type: "counter", help: "Travels that came to an end, by outcome.", labels: ["outcome"] },
  yh_travel_failures_total: { type: "counter", help: "Travels that failed, by code.", labels: ["code"] },
  yh_travel_seconds: {
    type: "histogram",
    help: "Length of travels that were completed: until a destination was ready, from there until all had boarded, and in all.",
    labels: ["step"],
    buckets: SLOW,
  },

  yh_queue_tickets: { type: "gauge", help: "Tickets in a queue.", labels: ["queue"] },
  yh_queue_players: { type: "gauge", help: "Players of the tickets in a queue.", labels: ["queue"] },
  yh_queue_oldest_wait_seconds: {
    type: "gauge",
    help: "How long the ticket that waits longest has waited; 0 when none waits.",
    labels: ["queue"],
  },
  yh_queue_wait_seconds: { type: "histogram", help: "Waits of matched tickets.", labels: ["queue"], buckets: SLOW },
  yh_tickets_ended_total: {
    type: "counter",
    help: "Searches that ended without a match, by cause.",
    labels: ["queue", "cause"],
  },
  yh_matches_made_total: { type: "counter", help: "Matches that were made.", labels: ["queue"] },
  yh_matches_undone_total: { type: "counter", help: "Matches that came to nothing.", labels: ["queue"] },
  yh_match_worst_latency_seconds: {
    type: "histogram",
    help: "Highest latency of a player to the region of its match, in queues that look at latencies.",
    labels: ["queue"],
    buckets: LATENCIES,
  },
  yh_match_spread: {
    type: "histogram",
    help: "Difference between the lowest and the highest ticket of a match, in units of the attribute.",
    labels: ["queue", "attribute"],
    buckets: SPREADS,
  },

  yh_instances: { type: "gauge", help: "Instances whose process is not known to be gone.", labels: ["pool", "state"] },
  yh_instances_launched_total: { type: "counter", help: "Instances that were launched.", labels: ["pool"] },
  yh_instances_failed_total: { type: "counter", help: "Instances that failed.", labels: ["pool"] },
  yh_instance_boot_seconds: { type: "histogram", help: "From launch to open.", labels: ["pool"], buckets: SLOW },
  yh_pool_max: { type: "gauge", help: "Most instances of a pool, by the configuration.", labels: ["pool"] },
  yh_pool_wanted: {
    type: "gauge",
    help: "Instances that the plan of a pool wants, held ones among them.",
    labels: ["pool"],
  },
  yh_pool_held_back: {
    type: "gauge",
    help: "Instances that the plan of a pool wants, and does not launch for what they would cost.",
    labels: ["pool"],
  },
  yh_pool_idle: { type: "gauge", help: "Instances that nobody holds.", labels: ["pool"] },
  yh_pool_failures: {
    type: "gauge",
    help: "Instances that failed in a row before they were open; launching ahead slows down and stops by it.",
    labels: ["pool"],
  },
  yh_pool_paused: { type: "gauge", help: "1 while the planner of a pool is paused.", labels: ["pool"] },
  yh_machine_up: { type: "gauge", help: "1 while a machine can be reached, else 0.", labels: ["machine"] },
  yh_machine_instances: { type: "gauge", help: "Instances that run on a machine.", labels: ["machine"] },
  yh_machine_max: { type: "gauge", help: "Most instances on a machine, by the configuration.", labels: ["machine"] },
  yh_machine_closed: { type: "gauge", help: "1 while a machine is cordoned or drained.", labels: ["machine"] },

  yh_events_total: { type: "counter", help: "Events that became durable, by kind.", labels: ["kind"] },
  yh_journal_sequence: { type: "gauge", help: "Number of the last durable event." },
  yh_journal_waiting: { type: "gauge", help: "Events that are decided and not durable yet." },
  yh_journal_append_seconds: { type: "histogram", help: "Time to make a batch durable.", buckets: QUICK },
  yh_journal_batch_events: { type: "histogram", help: "Events in a batch.", buckets: SIZES },
  yh_journal_bytes_total: { type: "counter", help: "Bytes of the events that became durable." },
  yh_journal_damaged: { type: "gauge", help: "1 when events of before the newest snapshot do not fit together." },
  yh_snapshots_total: { type: "counter", help: "Snapshots that were made." },
  yh_snapshot_failures_total: { type: "counter", help: "Snapshots that could not be made." },
  yh_snapshot_behind_events: { type: "gauge", help: "Events since the last snapshot: a start replays them." },
  yh_commands_waiting: { type: "gauge", help: "Commands and reads that are not answered yet." },
  yh_deadline_seconds: {
    type: "histogram",
    help: "Time to decide what a deadline brings, during which nothing else is decided.",
    buckets: QUICK,
  },

  yh_matcher_seconds: {
    type: "histogram",
    help: "Time of a look for matches, in the matcher's thread.",
    labels: ["queue"],
    buckets: QUICK,
  },
  yh_webhook_events_total: {
    type: "counter",
    help: "Events that were sent to a webhook, by how that ended; one that fails is counted with each attempt.",
    labels: ["webhook", "result"],
  },
  yh_webhook_seconds: { type: "histogram", help: "Time to an answer.", labels: ["webhook"], buckets: QUICK },
  yh_webhook_waiting: {
    type: "gauge",
    help: "Events that a webhook has not got yet, as far as they were read: at most 1,000.",
    labels: ["webhook"],
  },
  yh_webhook_oldest_seconds: { type: "gauge", help: "Age of the oldest of them.", labels: ["webhook"] },
  yh_webhook_dead: { type: "gauge", help: "Events that were put aside for a webhook.", labels: ["webhook"] },

  yh_alert: { type: "gauge", help: "1 for each alert that the service raises itself.", labels: ["alert", "subject"] },
  yh_wrong_keys_total: { type: "counter", help: "Operators' keys that are none." },
  yh_keys_in_two_places_total: { type: "counter", help: "Keys of instances and machines used from two addresses." },
  yh_relay_connections: { type: "gauge", help: "Connections to instances that pass through here." },
  yh_relay_bytes_to_instances_total: { type: "counter", help: "Bytes that passed to instances." },
  yh_relay_bytes_to_players_total: { type: "counter", help: "Bytes that passed to players." },
  yh_worker_sockets: {
    type: "gauge",
    help: "Players' sockets in other processes; absent where all are in one.",
    labels: ["worker"],
  },
  yh_worker_memory_bytes: { type: "gauge", help: "Resident memory of a worker's process.", labels: ["worker"] },
  yh_worker_cpu_seconds: {
    type: "gauge",
    help: "Processor time of a worker's process since its start; it begins anew when the worker is replaced.",
    labels: ["worker"],
  },
  yh_worker_loop_delay_seconds: {
    type: "gauge",
    help: "How late the event loop of a worker was in the last seconds (p99).",
    labels: ["worker"],
  },
} as const satisfies Record<`yh_${string}`, MetricDefinition>;

export type MetricName = keyof typeof definitions;

type LabelOf<D> = D extends { readonly labels: readonly (infer L extends string)[] } ? L : never;

/** The labels that a metric takes, each with its value. */
export type LabelsOf<N extends MetricName> = Readonly<Record<LabelOf<(typeof definitions)[N]>, string>>;

/** Names of the metrics of a type. */
export type NamesOf<T extends MetricDefinition["type"]> = {
  [N in MetricName]: (typeof definitions)[N]["type"] extends T ? N : never;
}[MetricName];
