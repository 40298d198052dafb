import type { EventKind, HarborEvent } from "@yellow-harbor/core";
import type { LogArea } from "./config/log.ts";
import type { Logs } from "./logs.ts";

interface Line {
  readonly level: "info" | "warn";
  /** What to do, where there is something to be done. */
  readonly remedy?: string;
}

const FAILED: Line = { level: "warn", remedy: "yh instance logs shows what it printed" };

/** What somebody looks for who reads the log; all else has a line at debug. */
const lines: { readonly [K in EventKind]?: Line } = {
  "harbor.founded": { level: "info" },
  "harbor.recovered": { level: "info" },
  "harbor.rules-changed": { level: "info" },
  "room.opened": { level: "info" },
  "room.set-up": { level: "info" },
  "room.playing": { level: "info" },
  "room.result-set": { level: "info" },
  "room.closed": { level: "info" },
  "travel.failed": { level: "info" },
  "ban.set": { level: "info" },
  "ban.lifted": { level: "info" },
  "rating.match-void": { level: "warn", remedy: "have the result name the players of the match" },
  "rating.season-began": { level: "info" },
  "instance.launched": { level: "info" },
  "instance.opened": { level: "info" },
  "instance.draining": { level: "info" },
  "instance.exited": { level: "info" },
  "instance.failed": FAILED,
  "build.added": { level: "info" },
  "build.promoted": { level: "info" },
  "build.rolled-back": { level: "warn", remedy: "yh build list shows what failed; mend it and add another version" },
  "machine.joined": { level: "info" },
  "machine.lost": { level: "warn", remedy: "look after yh agent on that machine; its instances may run on" },
  "plan.mode-set": { level: "info" },
  "plan.pinned": { level: "info" },
};

const areas: Readonly<Record<string, LogArea>> = {
  player: "players",
  instance: "instances",
  build: "instances",
  machine: "instances",
  plan: "instances",
};

/** Ids and reasons by which one goes on looking. Names of people are in no line. */
const FIELDS = [
  "room",
  "run",
  "player",
  "instance",
  "pool",
  "line",
  "version",
  "machine",
  "queue",
  "match",
  "ban",
] as const;
const REASONS = ["code", "reason", "why", "by"] as const;

/** Writes a line for each event, once it is durable. */
export const logEvents =
  (logs: Pick<Logs, "of">) =>
  (event: HarborEvent, seq: number): void => {
    const { kind } = event;
    // An exit that nobody asked for is how a crash shows.
    const line = event.kind === "instance.exited" && event.first ? FAILED : lines[kind];
    const { level, remedy } = line ?? { level: "debug" as const, remedy: undefined };
    const log = logs.of(areas[kind.slice(0, kind.indexOf("."))] ?? "harbor");
    if (!log.isLevelEnabled(level)) return;
    log[level]({ seq, ...shown(event), ...(remedy !== undefined && { remedy }) }, kind);
  };

function shown(event: HarborEvent): Record<string, unknown> {
  const fields: Record<string, unknown> = {};
  const values = event as unknown as Record<string, unknown>;
  for (const name of [...FIELDS, ...REASONS]) {
    const value = values[name];
    // What is more than an id or a reason is in the journal, by its number.
    if (typeof value === "string") fields[name] = value;
  }
  return fields;
}
