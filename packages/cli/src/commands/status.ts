import { setTimeout as wait } from "node:timers/promises";
import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { SeriesSpan, StatusView } from "@yellow-harbor/protocol";
import { type Command, Option } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import type { Screen } from "../output/screen.ts";
import { seriesLines } from "../output/series-lines.ts";
import { table } from "../output/table.ts";
import { duration } from "../output/time.ts";

export function addStatus(program: Command): void {
  program
    .command("status")
    .description("show the service in numbers")
    .option("--watch", "show it again and again until Ctrl-C; with --json one object a line")
    .option("--every <seconds>", "with --watch: seconds between two looks", wholeNumber("--every", 1, 3_600), 2)
    .option("--count <number>", "with --watch: end after so many", wholeNumber("--count", 1, 1_000_000))
    .addOption(
      new Option("--over <span>", "show how it was over the last hour, day or month").choices(Object.keys(SPANS)),
    )
    .action(async ({ watch, every, count, over }: StatusOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      if (over)
        return screen.show(await operator.series(over), (found) => seriesLines(found, SPANS[over], screen.width));
      if (watch) return watchStatus(operator, screen, every, count ?? Number.POSITIVE_INFINITY);
      screen.show(await operator.status(), (status) => render(status, screen.width));
      if (!screen.json) screen.note("next: yh room list, yh instance list");
    });
}

const SPANS: Readonly<Record<SeriesSpan, number>> = { hour: 3_600_000, day: 86_400_000, month: 31 * 86_400_000 };

interface StatusOptions {
  readonly over?: SeriesSpan;
  readonly watch?: boolean;
  readonly every: number;
  readonly count?: number;
}

/** Home, then clear to the end of the screen (ECMA-48, sections 8.3.21 and 8.3.39): no flicker, nothing of before is left. */
const FROM_THE_TOP = "\u001b[H\u001b[J";

/** A service that does not answer for a moment is waited for: that is when one wants to watch. */
async function watchStatus(operator: OperatorClient, screen: Screen, everyS: number, times: number): Promise<void> {
  const { out } = io();
  for (let n = 1; n <= times; n++) {
    const status = await statusOrWhyNot(operator);
    if (out.isTTY && !screen.json) out.write(FROM_THE_TOP);
    showOnce(status, screen);
    if (n === times) return;
    if (!out.isTTY && !screen.json) screen.line();
    await wait(everyS * 1_000);
  }
}

const statusOrWhyNot = (operator: OperatorClient): Promise<StatusView | ProblemError> =>
  operator.status().catch((error: unknown) => {
    if (error instanceof ProblemError && error.code === "service-unreachable") return error;
    throw error;
  });

function showOnce(status: StatusView | ProblemError, screen: Screen): void {
  const isAway = status instanceof ProblemError;
  if (screen.json) return screen.jsonLine(isAway ? status.problem : status);
  for (const line of isAway ? [pc.red(status.message)] : render(status, screen.width)) screen.line(line);
}

function render(status: StatusView, width: number): string[] {
  const { players, rooms, instances, lobbies, journal } = status;
  return [
    `${pc.bold(status.harbor)}  version ${status.version}, wire ${status.wire}, up ${duration(status.upMs)}, accepts ${status.accepts.join(", ")}`,
    "",
    ...[
      `players    ${players.here} here, ${players.away} away, limit ${players.limit}`,
      ...lineLines(status),
      `rooms      ${counts(rooms)}`,
      `instances  ${counts(instances)}`,
      `process    ${Math.round(status.process.memoryBytes / 2 ** 20)} MiB of memory, ${status.connections} connections, event loop late by ${status.process.loopDelayMs} ms (p99, max ${status.process.maxLoopDelayMs} ms)`,
      ...workerLines(status),
      ...(status.relay === undefined ? [] : [`relayed    ${relayed(status.relay)}`]),
      ...keyLines(status),
      `journal    ${journal.seq} events durable, ${journal.waiting} waiting, ${journal.commits} commits`,
      ...(journal.fault === undefined ? [] : [pc.red(`           its past cannot be relied on: ${journal.fault}`)]),
    ],
    ...alertLines(status),
    "",
    ...table(
      lobbies,
      [
        { heading: "LOBBY", value: (lobby) => lobby.id },
        { heading: "TITLE", value: (lobby) => lobby.title },
        { heading: "IN LOBBY", value: (lobby) => String(lobby.players), align: "right" },
        { heading: "ROOMS", value: (lobby) => String(lobby.rooms), align: "right" },
        { heading: "IN ROOMS", value: (lobby) => String(lobby.inRooms), align: "right" },
      ],
      width,
    ),
  ];
}

/** Who waits for a place. */
function lineLines({ waitingLine }: StatusView): string[] {
  if (waitingLine === undefined) return [];
  const { players, oldestSinceMs } = waitingLine;
  return [
    pc.yellow(
      `in line    ${players === 1 ? "1 player waits" : `${players} players wait`} for a place, the first one for ${duration(Date.now() - oldestSinceMs)}`,
    ),
  ];
}

/** What somebody should look at. */
function alertLines({ alerts }: StatusView): string[] {
  const now = Date.now();
  return alerts.flatMap(({ severity, text, remedy, sinceMs }, n) => [
    ...(n === 0 ? [""] : []),
    `${severity === "page" ? pc.red("ALERT") : pc.yellow("look ")}      ${text} ${pc.dim(`(for ${duration(now - sinceMs)})`)}`,
    `           ${remedy}`,
  ]);
}

/** Processes that have players' connections, where the service runs in several. */
function workerLines({ workers, connections }: StatusView): string[] {
  if (workers === undefined) return [];
  const each = workers.workers.map(
    (one) =>
      `${one.isReady ? inWords(one.connections) : "starting"} (pid ${one.pid}${one.memoryBytes === undefined ? "" : `, ${Math.round(one.memoryBytes / 2 ** 20)} MiB`})`,
  );
  const here = connections - workers.workers.reduce((sum, one) => sum + one.connections, 0);
  const more = [
    ...(here > 0 ? [`${inWords(here)} with the service itself`] : []),
    ...(workers.replaced > 0 ? [`replaced ${workers.replaced} time${workers.replaced === 1 ? "" : "s"}`] : []),
  ];
  return [`workers    ${[each.length === 0 ? "none now" : each.join(", "), ...more].join("; ")}`];
}

const inWords = (connections: number) => `${connections} connection${connections === 1 ? "" : "s"}`;

/** Keys that give reason to look. */
function keyLines({ wrongKeys, keysInTwoPlaces: { count, last } }: StatusView): string[] {
  const { count: wrong, lastFrom, lastAtMs } = wrongKeys;
  const now = Date.now();
  const lines: string[] = [];
  if (wrong > 0 && lastAtMs !== undefined) {
    const were = wrong === 1 ? "1 wrong one was" : `${wrong} wrong ones were`;
    lines.push(pc.yellow(`keys       ${were} shown, the last from ${lastFrom} ${duration(now - lastAtMs)} ago`));
  }
  if (count > 0 && last !== undefined) {
    const [one, other] = last.from;
    const when = `${duration(now - last.atMs)} ago`;
    lines.push(pc.red(`stolen?    the key of ${last.holder} was used from ${one} and ${other} in turns, ${when}`));
  }
  return lines;
}

const kib = (bytes: number) => `${Math.round(bytes / 1024)} KiB`;

const relayed = ({ connections, bytesToInstances, bytesToPlayers }: NonNullable<StatusView["relay"]>) =>
  `${connections} connections to instances, ${kib(bytesToInstances)} to them and ${kib(bytesToPlayers)} back`;

function counts(record: Record<string, number>): string {
  const some = Object.entries(record).filter(([, count]) => count > 0);
  return some.length === 0 ? "none" : some.map(([name, count]) => `${count} ${name}`).join(", ");
}
