import pino, { type Logger } from "pino";
import { type LogArea, type LogConfig, logAreas } from "./config/log.ts";

/** The service's log, by area: each may say more or less than the others, also from one moment to the next. */
export class Logs {
  readonly root: Logger;
  /** Of single requests, of which there are many: at info it is about what went wrong. */
  readonly requests: Logger;
  readonly #areas: ReadonlyMap<LogArea, Logger>;
  /** A log that was given keeps its level. */
  readonly #isOwn: boolean;

  constructor(config: LogConfig, given: Logger | undefined) {
    this.#isOwn = given === undefined;
    this.root = given ?? pino({ level: config.level, base: undefined });
    this.requests = this.root.child({ area: "operators" }, { level: quieter(this.root.level) });
    this.#areas = new Map(logAreas.map((area) => [area, this.root.child({ area })]));
    this.take(config);
  }

  of(area: LogArea): Logger {
    return this.#areas.get(area) ?? this.root;
  }

  /** Other levels from now on. */
  take({ level, areas }: LogConfig): void {
    if (!this.#isOwn) return;
    this.root.level = level;
    for (const [area, log] of this.#areas) log.level = areas[area] ?? level;
    this.requests.level = quieter(areas.operators ?? level);
  }
}

const quieter = (level: string): string => (level === "info" ? "warn" : level);
