import { rmSync } from "node:fs";
import { join } from "node:path";
import { type Harbor, lobbySummary, queueSummary } from "@yellow-harbor/core";
import { SERIES_COUNTS, type Series, type SeriesFigures, type SeriesSpan } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { Metrics } from "../metrics/metrics.ts";
import { every } from "../runtime/every.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import { SeriesStore } from "./series-store.ts";
import { spans, together } from "./spans.ts";

type Counts = Pick<SeriesFigures, (typeof SERIES_COUNTS)[number]>;
type Gauges = Omit<SeriesFigures, keyof Counts>;

export interface SeriesParts {
  readonly runtime: Pick<HarborRuntime, "query">;
  readonly metrics: Pick<Metrics, "total" | "totals">;
  readonly dataFolder: string;
  readonly now: () => number;
  readonly log: Pick<Logger, "error" | "warn">;
}

const FILE = "series.sqlite";

/** Looks at the service every ten seconds, and keeps what it sees: closely for an hour, coarser the longer ago it is. */
export class SeriesKeeper {
  readonly #parts: SeriesParts;
  #store: SeriesStore | undefined;
  #stop: () => void = () => undefined;
  /** What the counters stood at when they were last looked at: they begin with the process. */
  #before: Counts = { arrived: 0, matched: 0, started: 0, failed: 0, played: 0 };

  constructor(parts: SeriesParts) {
    this.#parts = parts;
  }

  begin(): void {
    const { dataFolder, log } = this.#parts;
    this.#store = openOrAnew(join(dataFolder, FILE), log);
    this.#stop = every(spans.hour.everyMs, "keeping figures", log, () => this.look());
  }

  end(): void {
    this.#stop();
    this.#store?.close();
    this.#store = undefined;
  }

  read(span: SeriesSpan): Series {
    const { everyMs, keepMs } = spans[span];
    return { everyMs, points: this.#store?.read(everyMs, this.#parts.now() - keepMs) ?? [] };
  }

  /** Adds a point, and what is complete with it. */
  async look(): Promise<void> {
    const { runtime, now } = this.#parts;
    const gauges = await runtime.query(gaugesOf);
    const counts = await this.#counted();
    const { everyMs } = spans.hour;
    const atMs = Math.floor(now() / everyMs) * everyMs;
    this.#store?.put(everyMs, { ...gauges, ...counts, atMs });
    this.#gather("hour", "day", atMs);
    this.#gather("day", "month", atMs);
    for (const { everyMs: span, keepMs } of Object.values(spans)) this.#store?.trim(span, atMs - keepMs);
  }

  /** The span of the coarser kind that has just ended, out of the finer points in it; also one that ended unseen. */
  #gather(from: SeriesSpan, to: SeriesSpan, atMs: number): void {
    const { everyMs } = spans[to];
    const endMs = Math.floor(atMs / everyMs) * everyMs;
    const store = this.#store;
    if (store === undefined || store.read(everyMs, endMs - 1, endMs).length > 0) return;
    const points = store.read(spans[from].everyMs, endMs - everyMs, endMs);
    if (points.length > 0) store.put(everyMs, { ...together(points), atMs: endMs });
  }

  async #counted(): Promise<Counts> {
    const now = await countersOf(this.#parts.metrics);
    const before = this.#before;
    this.#before = now;
    return Object.fromEntries(SERIES_COUNTS.map((name) => [name, Math.max(0, now[name] - before[name])])) as Counts;
  }
}

function openOrAnew(file: string, log: SeriesParts["log"]): SeriesStore {
  try {
    const store = new SeriesStore(file);
    store.read(0, 0);
    return store;
  } catch (error) {
    log.warn({ err: error, file }, "the figures of before cannot be read; they begin anew");
    for (const ending of ["", "-wal", "-shm"]) rmSync(`${file}${ending}`, { force: true });
    return new SeriesStore(file);
  }
}

function gaugesOf({ state, rules }: Harbor): Gauges {
  const sum = (numbers: readonly number[]) => numbers.reduce((all, one) => all + one, 0);
  const rooms = [...state.rooms.byId.values()];
  const members = (list: typeof rooms) => sum(list.map((room) => room.members.size));
  return {
    players: state.players.here,
    inLobbies: sum([...rules.lobbies].map(([id, { title }]) => lobbySummary(state, id, title).players)),
    searching: sum([...rules.queues.keys()].map((queue) => queueSummary(state, rules, queue).players)),
    inRooms: members(rooms),
    playing: members(rooms.filter(({ stage }) => stage.phase === "playing")),
    rooms: rooms.length,
    instances: [...state.pools.instances.values()].filter(({ gone }) => !gone).length,
  };
}

async function countersOf(metrics: SeriesParts["metrics"]): Promise<Counts> {
  const travels = await metrics.totals("yh_travels_total", "outcome");
  return {
    arrived: await metrics.total("yh_players_connected_total"),
    matched: await metrics.total("yh_matches_made_total"),
    started: travels["completed"] ?? 0,
    failed: travels["failed"] ?? 0,
    played: await metrics.total("yh_matches_played_total"),
  };
}
