import type { StatusView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { table } from "../output/table.ts";
import { duration } from "../output/time.ts";

export function addStatus(program: Command): void {
  program
    .command("status")
    .description("show the service in numbers")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.status(), (status) => render(status, screen.width));
      if (!screen.json) screen.note("next: yh room list, yh instance list");
    });
}

function render(status: StatusView, width: number): string[] {
  const { players, rooms, instances, lobbies, journal } = status;
  return [
    `${pc.bold(status.harbor)}  version ${status.version}, wire ${status.wire}, up ${duration(status.upMs)}, accepts ${status.accepts.join(", ")}`,
    "",
    ...[
      `players    ${players.here} here, ${players.away} away, limit ${players.limit}`,
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
  const each = workers.workers.map((one) => `${one.isReady ? inWords(one.connections) : "starting"} (pid ${one.pid})`);
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
