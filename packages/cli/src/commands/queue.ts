import { type MatchView, matchesPerMinute, type QueueSummary, type TicketView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";

const MODES = {
  pause: { mode: "paused", about: "pause a queue: it takes no tickets and makes no matches; tickets keep their wait" },
  resume: { mode: "open", about: "open a queue that was paused or drained" },
  drain: { mode: "draining", about: "drain a queue: it takes no tickets; those that wait are still matched" },
} as const;

export function addQueue(program: Command): void {
  const queue = program.command("queue").description("list queues and who waits in them, and pause or drain one");
  queue
    .command("list")
    .description("list the queues, and how many players search in each")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.queues(), ({ queues }) => render(queues, screen));
    });
  queue
    .command("show")
    .description("list who waits in a queue, the longest waiting first")
    .argument("<queue>", "name")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 1_000), 50)
    .action(async (name: string, { limit }: { limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { tickets, total } = await operator.tickets({ queue: name, limit });
      screen.show({ tickets, total }, () => renderTickets(tickets, total, screen));
      const [first] = tickets;
      if (first && !screen.json) screen.note(`why it is still waiting: yh explain ticket ${first.id}`);
    });
  queue
    .command("matches")
    .description("list the latest matches of a queue, the newest first")
    .argument("<queue>", "name")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 1_000), 20)
    .action(async (name: string, { limit }: { limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { matches } = await operator.matches({ queue: name, limit });
      screen.show({ matches }, () => renderMatches(matches, screen));
      const [first] = matches;
      if (first && !screen.json) screen.note(`why it was made: yh explain match ${first.id}`);
    });
  for (const [verb, { mode, about }] of Object.entries(MODES)) {
    queue
      .command(verb)
      .description(about)
      .argument("<queue>", "name")
      .action(async (name: string, _options: unknown, command: Command) => {
        const { screen, operator } = contextOf(command);
        screen.show(await operator.setQueueMode(name, mode), (now) => [
          `Queue ${now.id} is ${now.mode}; ${now.tickets} ${now.tickets === 1 ? "ticket waits" : "tickets wait"} in it.`,
        ]);
      });
  }
}

const ago = (atMs: number) => `${((Date.now() - atMs) / 1_000).toFixed(1)} s`;

function render(queues: readonly QueueSummary[], { width }: Screen): string[] {
  if (queues.length === 0) return ["No queues. They stand under queues in the configuration."];
  const lines = table(
    queues,
    [
      { heading: "QUEUE", value: (one) => pc.bold(one.id) },
      { heading: "MODE", value: ({ mode }) => (mode === "open" ? mode : pc.yellow(mode)) },
      { heading: "LOBBY", value: (one) => one.lobby },
      { heading: "TICKETS", value: (one) => String(one.tickets), align: "right" },
      { heading: "PLAYERS", value: (one) => String(one.players), align: "right" },
      {
        heading: "OLDEST",
        value: ({ oldestSinceMs }) => (oldestSinceMs === undefined ? "-" : ago(oldestSinceMs)),
        align: "right",
      },
      { heading: "CONFIRMING", value: ({ confirming }) => String(confirming), align: "right" },
      { heading: "BACKFILL", value: ({ backfill }) => String(backfill), align: "right" },
      { heading: "MATCHES", value: (one) => String(one.matches), align: "right" },
      { heading: "PER MINUTE", value: (one) => matchesPerMinute(one, Date.now())?.toFixed(1) ?? "-", align: "right" },
      { heading: "MEAN SPREAD", value: spreads },
    ],
    width,
  );
  return [...lines, pc.dim(`${queues.length} ${queues.length === 1 ? "queue" : "queues"}`)];
}

const spreads = ({ lately }: QueueSummary): string =>
  lately?.spread.map(({ attribute, mean }) => `${attribute} ${mean}`).join(", ") || "-";

function renderMatches(matches: readonly MatchView[], { width }: Screen): string[] {
  if (matches.length === 0) return ["No matches yet. yh queue show lists who waits."];
  return table(
    matches,
    [
      { heading: "MATCH", value: (one) => pc.bold(one.id) },
      { heading: "MADE", value: ({ atMs }) => `${ago(atMs)} ago`, align: "right" },
      { heading: "PLAYERS", value: ({ sides }) => sides.map((side) => side.length).join(" : "), align: "right" },
      { heading: "REGION", value: ({ region }) => region ?? "-" },
      {
        heading: "SPREAD",
        value: ({ quality }) =>
          Object.entries(quality.spread)
            .map(([attribute, spread]) => `${attribute} ${spread}`)
            .join(", ") || "-",
      },
      { heading: "WORST", value: ({ quality }) => msText(quality.worstLatencyMs), align: "right" },
      { heading: "LONGEST WAIT", value: ({ quality }) => `${quality.longestWaitS.toFixed(1)} s`, align: "right" },
      { heading: "ROOM", value: roomText },
    ],
    width,
  );
}

const msText = (ms: number | null) => (ms === null ? "-" : `${Math.round(ms)} ms`);

function roomText({ room, into, confirming }: MatchView): string {
  if (confirming) return pc.yellow("being asked");
  if (into !== undefined) return `${into}, filled up`;
  return room ?? pc.yellow("not open");
}

function renderTickets(tickets: readonly TicketView[], total: number, { width }: Screen): string[] {
  if (tickets.length === 0) return ["Nobody waits in it. In yh play, say search QUEUE skill=1500."];
  const lines = table(
    tickets,
    [
      { heading: "TICKET", value: (one) => pc.bold(one.id) },
      { heading: "STATE", value: ({ state }) => (state === "searching" ? state : pc.yellow(state)) },
      { heading: "WAITED", value: ({ sinceMs }) => (sinceMs === undefined ? "-" : ago(sinceMs)), align: "right" },
      { heading: "PLAYERS", value: ({ players }) => players.map(({ name }) => name).join(", ") },
      ...(tickets.some(({ also }) => also)
        ? [{ heading: "QUEUES", value: ({ queue, also = [] }: TicketView) => [queue, ...also].join(", ") }]
        : []),
    ],
    width,
  );
  const more = total > tickets.length ? `, the first ${tickets.length} of which are shown` : "";
  return [...lines, pc.dim(`${total} ${total === 1 ? "ticket" : "tickets"}${more}`)];
}
