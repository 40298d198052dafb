import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import { type Command, Option } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { allOf, eventsAfter, eventsForEver, lastBefore, newestOf, type Recorded } from "../journal/pages.ts";
import { lineOf, writeEvents } from "../journal/write-events.ts";
import { counted } from "../output/counted.ts";
import { TIME_FORMS, timeOf } from "../output/moment.ts";
import { progressOf } from "../output/progress.ts";
import type { Screen } from "../output/screen.ts";
import { cut } from "../output/table.ts";
import { writeText } from "../output/write-text.ts";

interface JournalOptions {
  readonly after?: number;
  readonly last?: number;
  readonly kind?: string;
  readonly about?: string;
  readonly limit?: number;
  readonly since?: number;
  readonly until?: number;
  readonly follow?: boolean;
  readonly export?: string;
}

export function addJournal(program: Command): void {
  const seq = wholeNumber("--after", 0, Number.MAX_SAFE_INTEGER);
  const journal = program.command("journal");
  journal
    .command("traffic")
    .description("print the recorded traffic of a queue, one ticket per line, for yh lab queue")
    .argument("<queue>", "name")
    .option("--out <file>", "write to this file instead of printing")
    .action(async (queue: string, { out }: { out?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      await writeTraffic(operator, queue, out, screen);
    });
  journal
    .command("demand")
    .description(
      "print which rooms asked a pool for an instance and how long they held it, one room per line, for yh lab pool",
    )
    .argument("<pool>", "name")
    .option("--out <file>", "write to this file instead of printing")
    .action(async (pool: string, { out }: { out?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      await writeDemand(operator, pool, out, screen);
    });
  journal
    .description("print recorded events, follow new ones, or write them to a file")
    .option("--after <number>", "events with higher numbers than this", seq)
    .addOption(
      new Option("--last <number>", "only among this many of the newest events")
        .argParser(wholeNumber("--last", 1, 1_000_000_000))
        .conflicts("after"),
    )
    .addOption(new Option("--since <time>", TIME_FORMS).argParser(timeFor("--since")).conflicts(["after", "last"]))
    .addOption(
      new Option("--until <time>", "only what was before; forms as with --since").argParser(timeFor("--until")),
    )
    .option("--kind <kind>", "kind, or the beginning of kinds: room, room.opened")
    .option("--about <id>", "id of a player, room or instance that the event names")
    .option(
      "--limit <number>",
      "at most this many; 100 when printed once, all with --follow and --export",
      wholeNumber("--limit", 1, 1_000_000_000),
    )
    .addOption(new Option("-f, --follow", "go on with new events as they are recorded").conflicts("until"))
    .addOption(new Option("--export <file>", "write to this file, a JSON object a line").conflicts("follow"))
    .addHelpText("after", "\nWith --json each line is one event as a JSON object, fit to be kept and searched.")
    .action(async (options: JournalOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const events = chosen(operator, options, await startOf(operator, options), screen);
      if (options.export !== undefined) return writeTo(options.export, events, screen);
      let shown = 0;
      for await (const event of events) {
        print(event, screen);
        shown += 1;
      }
      if (shown === 0) screen.note("no event of the journal fits");
    });
}

const timeFor = (option: string) => (typed: string) => {
  const atMs = timeOf(typed, Date.now());
  if (atMs !== undefined) return atMs;
  throw ProblemError.of("usage", `${option} ${typed} is no time; give ${TIME_FORMS}.`);
};

const PRINTED = 100;

async function* chosen(
  operator: OperatorClient,
  options: JournalOptions,
  after: number,
  screen: Screen,
): AsyncGenerator<Recorded> {
  const { kind, about, until = Number.POSITIVE_INFINITY, follow } = options;
  const limit = options.limit ?? (follow || options.export !== undefined ? Number.POSITIVE_INFINITY : PRINTED);
  let isAway = false;
  const lost = ({ message }: ProblemError) => {
    if (!isAway) screen.note(message);
    isAway = true;
  };
  const filter = { kind, about };
  const events = follow ? eventsForEver(operator, after, filter, lost) : eventsAfter(operator, after, filter);
  // What is recorded meanwhile is not among the newest as they were when it was asked.
  const newest = options.last === undefined || follow ? Number.POSITIVE_INFINITY : after + options.last;
  let left = limit;
  for await (const event of events) {
    isAway = false;
    if (event.atMs >= until || event.seq > newest) return;
    yield event;
    left -= 1;
    if (left <= 0) return;
  }
}

async function startOf(operator: OperatorClient, { after, last, since, follow }: JournalOptions): Promise<number> {
  if (after !== undefined) return after;
  if (since !== undefined) return lastBefore(operator, since);
  if (last !== undefined) return Math.max(0, (await newestOf(operator)) - last);
  return follow ? newestOf(operator) : 0;
}

async function writeTo(file: string, events: AsyncIterable<Recorded>, screen: Screen): Promise<void> {
  const progress = progressOf((done) => `${counted(done, "event")} written`);
  const written = await writeEvents(file, events, progress);
  screen.show({ file, events: written }, () => [`${counted(written, "event")} written to ${file}.`]);
}

async function writeTraffic(operator: OperatorClient, queue: string, out: string | undefined, screen: Screen) {
  const { recordedTraffic } = await import("@yellow-harbor/lab");
  const { tickets, unknown } = recordedTraffic(await allOf(operator, "queue"), queue);
  if (tickets.length === 0) {
    throw ProblemError.of(
      "traffic-invalid",
      `The journal tells of nobody who searched in ${queue}; yh queue list names the queues.`,
    );
  }
  const text = tickets.map((ticket) => `${JSON.stringify(ticket)}\n`).join("");
  if (out === undefined) screen.line(text.trimEnd());
  else writeText(out, text);
  const where = out === undefined ? "" : ` to ${out}`;
  screen.note(`${tickets.length} tickets of ${queue}${where}; try rules on them with yh lab queue --tickets.`);
  if (unknown > 0) screen.note(`${unknown} more began before the journal does, and are left out.`);
}

async function writeDemand(operator: OperatorClient, pool: string, out: string | undefined, screen: Screen) {
  const { recordedDemand } = await import("@yellow-harbor/lab");
  const demand = recordedDemand(await allOf(operator, "instance"), pool);
  if (demand.length === 0) {
    const detail = `The journal tells of no room that has held an instance of ${pool}; yh pool list names the pools.`;
    throw ProblemError.of("traffic-invalid", detail);
  }
  const text = demand.map((line) => `${JSON.stringify(line)}\n`).join("");
  if (out === undefined) screen.line(text.trimEnd());
  else writeText(out, text);
  screen.note(
    `${demand.length} rooms${out === undefined ? "" : ` to ${out}`}; try policies on them with yh lab pool --demand.`,
  );
}

function print(recorded: Recorded, screen: Screen): void {
  const { seq, atMs, kind, event } = recorded;
  if (screen.json) return screen.line(lineOf(recorded));
  const at = new Date(atMs).toISOString();
  const shown = screen.absolute ? at : at.slice(11, 19);
  const head = `${String(seq).padStart(7)}  ${shown}  ${kind}  `;
  const rest = cut(JSON.stringify(event), Math.max(20, screen.width - head.length));
  screen.line(`${String(seq).padStart(7)}  ${pc.dim(shown)}  ${pc.bold(kind)}  ${rest}`);
}
