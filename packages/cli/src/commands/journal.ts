import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { JournalPage } from "@yellow-harbor/protocol";
import { type Command, Option } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { cut } from "../output/table.ts";
import { writeText } from "../output/write-text.ts";

interface JournalOptions {
  readonly after?: number;
  readonly last?: number;
  readonly kind?: string;
  readonly about?: string;
  readonly limit: number;
}

type Recorded = JournalPage["events"][number];

const PAGE = 1_000;

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
    .description("print recorded events")
    .option("--after <number>", "events with higher numbers than this", seq)
    .addOption(
      new Option("--last <number>", "only among this many of the newest events")
        .argParser(wholeNumber("--last", 1, 1_000_000_000))
        .conflicts("after"),
    )
    .option("--kind <kind>", "kind, or the beginning of kinds: room, room.opened")
    .option("--about <id>", "id of a player, room or instance that the event names")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 1_000_000_000), 100)
    .addHelpText("after", "\nWith --json each line is one event as a JSON object, fit to be kept and searched.")
    .action(async (options: JournalOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const after = options.after ?? (await startOf(operator, options.last));
      let shown = 0;
      for await (const event of eventsOf(operator, { ...options, after })) {
        print(event, screen);
        shown += 1;
      }
      if (shown === 0) screen.note("no event of the journal fits");
    });
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

/** All events of a kind that the journal has. */
async function allOf(operator: OperatorClient, kind: string): Promise<Recorded[]> {
  const events: Recorded[] = [];
  for await (const event of eventsOf(operator, { after: 0, kind, limit: Number.MAX_SAFE_INTEGER })) events.push(event);
  return events;
}

async function startOf(operator: OperatorClient, last: number | undefined): Promise<number> {
  if (last === undefined) return 0;
  const { journal } = await operator.status();
  return Math.max(0, journal.seq - last);
}

async function* eventsOf(
  operator: OperatorClient,
  { after, kind, about, limit }: JournalOptions & { after: number },
): AsyncGenerator<Recorded> {
  let left = limit;
  for (let from: number | undefined = after; from !== undefined && left > 0; ) {
    const filter = { ...(kind !== undefined && { kind }), ...(about !== undefined && { about }) };
    const page: JournalPage = await operator.journal({ after: from, limit: Math.min(left, PAGE), ...filter });
    yield* page.events;
    left -= page.events.length;
    from = page.next;
  }
}

function print({ seq, atMs, kind, event }: Recorded, screen: Screen): void {
  if (screen.json) return screen.jsonLine({ seq, atMs, kind, ...event });
  const at = new Date(atMs).toISOString();
  const shown = screen.absolute ? at : at.slice(11, 19);
  const head = `${String(seq).padStart(7)}  ${shown}  ${kind}  `;
  const rest = cut(JSON.stringify(event), Math.max(20, screen.width - head.length));
  screen.line(`${String(seq).padStart(7)}  ${pc.dim(shown)}  ${pc.bold(kind)}  ${rest}`);
}
