import type { Named, OutputEvent } from "@yellow-harbor/core";
import { type BuildSpec, type InstanceId, WATCHED_LINE_MAX } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { every } from "../runtime/every.ts";
import { type Output, OutputAwayError } from "./driver.ts";
import { type OutputPattern, outputPattern } from "./patterns.ts";

const READ_MAX = 262_144;
const NONE = Buffer.alloc(0);

/** What one kind of server tells by what it prints. */
interface Patterns {
  readonly ready: OutputPattern | undefined;
  readonly joined: OutputPattern | undefined;
  readonly left: OutputPattern | undefined;
  readonly score: OutputPattern | undefined;
  readonly over: OutputPattern | undefined;
}

const patternOf = (source: string | undefined) => (source === undefined ? undefined : outputPattern(source));

export const patternsOf = ({ ready, watch }: BuildSpec): Patterns => ({
  ready: typeof ready === "object" ? patternOf(ready.line) : undefined,
  joined: patternOf(watch?.joined),
  left: patternOf(watch?.left),
  score: patternOf(watch?.score),
  over: patternOf(watch?.over),
});

/** What a line tells, or undefined. */
export function outputEventIn(line: string, { ready, joined, left, score, over }: Patterns): OutputEvent | undefined {
  const text = line.slice(0, WATCHED_LINE_MAX);
  const who = (pattern: OutputPattern | undefined) => {
    const found = pattern?.matcher(text);
    if (pattern === undefined || !found?.find()) return undefined;
    const named = pattern.namedGroups();
    const by = (["id", "name", "place"] as const).find((one) => named[one] !== undefined && found.group(one) !== null);
    return by && { by, text: found.group(by)?.trim() ?? "" };
  };
  const joins = who(joined);
  if (joins) return { what: "joined", who: joins };
  const leaves = who(left);
  if (leaves) return { what: "left", who: leaves };
  const scored = scoreIn(text, score, who);
  if (scored) return scored;
  if (over?.matcher(text).find()) return { what: "over" };
  return ready?.matcher(text).find() ? { what: "ready" } : undefined;
}

/** A score is a number as people write it; anything else is none. */
function scoreIn(
  text: string,
  pattern: OutputPattern | undefined,
  whoIn: (pattern: OutputPattern | undefined) => Named | undefined,
): OutputEvent | undefined {
  const who = whoIn(pattern);
  const found = pattern?.matcher(text);
  if (who === undefined || !found?.find()) return undefined;
  const written = found.group("score")?.trim() ?? "";
  const score = Number(written);
  return written === "" || !Number.isFinite(score) ? undefined : { what: "score", who, score };
}

export interface Watched {
  readonly instance: InstanceId;
  readonly spec: BuildSpec;
  readonly outputRead: Readonly<Record<"out" | "err", number>>;
}

export interface Lines {
  readonly stream: "out" | "err";
  /** Bytes of the file that were looked at so far. */
  readonly upTo: number;
  /** The file was put aside and begins anew. */
  readonly anew: boolean;
  readonly said: readonly OutputEvent[];
}

/** The whole lines that have come in a file since so many bytes of it; of one that was put aside, what was left there first. */
export async function linesSince(
  output: Output,
  stream: "out" | "err",
  from: number,
  patterns: Patterns,
): Promise<Lines | undefined> {
  const anew = (await output.size("now")) < from;
  const left = anew ? await output.read("former", Math.max(0, from - (await output.size("cut"))), READ_MAX) : NONE;
  const start = anew ? 0 : from;
  const part = await output.read("now", start, READ_MAX);
  const end = part.lastIndexOf(0x0a);
  // A line that fills all that is read at once and has no end is none that anybody waits for.
  const taken = end >= 0 ? end + 1 : part.length === READ_MAX ? part.length : 0;
  if (taken === 0 && !anew) return undefined;
  const text = Buffer.concat([left, part.subarray(0, taken)]).toString("utf8");
  const said = text.split("\n").flatMap((line) => outputEventIn(line.replace(/\r$/, ""), patterns) ?? []);
  return { stream, upTo: start + taken, anew, said };
}

const LOOK_EVERY_MS = 150;

export interface WatcherParts {
  /** Instances that are watched by what they print, as they are decided. */
  readonly watched: () => readonly Watched[];
  readonly output: (instance: InstanceId, stream: "out" | "err") => Output;
  readonly log: Pick<Logger, "error">;
  /** Resolves once it is settled: until then no more is read. */
  readonly hear: (instance: InstanceId, lines: Lines) => Promise<void>;
}

/** Reads on in the output of the instances that know nothing of us. */
export class OutputWatcher {
  readonly #parts: WatcherParts;
  readonly #patterns = new WeakMap<BuildSpec, Patterns>();
  readonly #stop: () => void;

  constructor(parts: WatcherParts) {
    this.#parts = parts;
    this.#stop = every(LOOK_EVERY_MS, "reading what instances print", parts.log, () => this.look());
  }

  async look(): Promise<void> {
    await Promise.all(this.#parts.watched().map((one) => this.#examine(one)));
  }

  close(): void {
    this.#stop();
  }

  async #examine({ instance, spec, outputRead }: Watched): Promise<void> {
    const patterns = this.#patterns.get(spec) ?? patternsOf(spec);
    this.#patterns.set(spec, patterns);
    for (const stream of ["out", "err"] as const) {
      const lines = await whileThere(
        linesSince(this.#parts.output(instance, stream), stream, outputRead[stream], patterns),
      );
      // Where nothing is said only long stretches are noted: not every line of a chatty server is an event.
      if (lines && (lines.said.length > 0 || lines.anew || lines.upTo - outputRead[stream] > QUIET_BYTES)) {
        await this.#parts.hear(instance, lines);
      }
    }
  }
}

const QUIET_BYTES = 65_536;

/** Undefined while the machine is away: what it has printed meanwhile is read when it is back. */
async function whileThere<T>(reading: Promise<T>): Promise<T | undefined> {
  try {
    return await reading;
  } catch (error) {
    if (error instanceof OutputAwayError) return undefined;
    throw error;
  }
}
