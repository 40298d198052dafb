import pc from "picocolors";
import { safeLine } from "../output/screen.ts";
import { cut, table } from "../output/table.ts";
import { duration } from "../output/time.ts";
import { listNames, listOf } from "./lists.ts";
import type { Reading } from "./reading.ts";
import { rowsOf, type View } from "./view.ts";

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** Alerts that are shown at once. */
const ALERTS_MAX = 4;
const HELP = "1-3 list   s sort   / filter   up, down choose   enter why   q quit";

/** All lines of the screen, no more than fit. `trouble` says why what is shown is not of now. */
export function frameOf(reading: Reading, view: View, { width, height }: Size, trouble?: string): string[] {
  const head = [...vitals(reading), ...alertLines(reading), ""];
  const foot = [trouble === undefined ? pc.dim(HELP) : pc.red(trouble)];
  const room = Math.max(3, height - head.length - foot.length);
  const body = view.detail ? detailLines(view.detail, width) : listLines(reading, view, { width, height: room });
  const shown = body.slice(0, room);
  const blank = Array.from({ length: Math.max(0, room - shown.length) }, () => "");
  return [...head, ...shown, ...blank, ...foot].map((line) => cut(safeLine(line), width));
}

function vitals({ status }: Reading): string[] {
  const { players, rooms, instances, process, journal } = status;
  const phases = some(rooms);
  const states = some(instances);
  return [
    `${pc.bold(status.harbor)}  version ${status.version}, up ${duration(status.upMs)}`,
    `players    ${players.here} here, ${players.away} away, limit ${players.limit}`,
    `rooms      ${phases}`,
    `instances  ${states}`,
    `process    ${Math.round(process.memoryBytes / 2 ** 20)} MiB, event loop late by ${process.loopDelayMs} ms (p99), ${journal.seq} events durable, ${journal.waiting} waiting`,
  ];
}

function some(counts: Readonly<Record<string, number>>): string {
  const named = Object.entries(counts).filter(([, count]) => count > 0);
  return named.length === 0 ? "none" : named.map(([name, count]) => `${count} ${name}`).join(", ");
}

function alertLines({ status: { alerts }, atMs }: Reading): string[] {
  if (alerts.length === 0) return [pc.green("all is well")];
  const lines = alerts.slice(0, ALERTS_MAX).map(({ severity, text, sinceMs }) => {
    const mark = severity === "page" ? pc.red("ALERT") : pc.yellow("look ");
    return `${mark}      ${text} ${pc.dim(`(for ${duration(atMs - sinceMs)})`)}`;
  });
  const more = alerts.length - ALERTS_MAX;
  return more > 0 ? [...lines, pc.dim(`           and ${more} more: yh status`)] : lines;
}

const detailLines = ({ id, lines }: NonNullable<View["detail"]>, width: number): string[] => [
  `${pc.bold(id)} ${pc.dim("escape goes back")}`,
  "",
  ...lines.flatMap((line) => folded(line, width)),
];

/** A line in as many as it takes, broken between words. */
function folded(line: string, width: number): string[] {
  const lines: string[] = [];
  let current = "";
  for (const word of line.split(" ")) {
    if (current !== "" && current.length + 1 + word.length > width) {
      lines.push(current);
      current = word;
    } else current = current === "" ? word : `${current} ${word}`;
  }
  return [...lines, current];
}

function listLines(reading: Reading, view: View, { width, height }: Size): string[] {
  const list = listOf(view.list);
  const rows = rowsOf(reading, view);
  const columns = list.columns(reading.atMs);
  const tabs = listNames.map((name, n) =>
    name === view.list ? pc.bold(`${n + 1} ${name}`) : pc.dim(`${n + 1} ${name}`),
  );
  const filter = view.isTyping || view.filter !== "" ? `   filter: ${view.filter}${view.isTyping ? "_" : ""}` : "";
  const sorted = pc.dim(`   by ${columns[view.sortedBy]?.heading.toLowerCase()}`);
  const head = `${tabs.join("   ")}${sorted}${filter}`;
  if (rows.length === 0) return [head, view.filter === "" ? list.empty : "Nothing fits the filter; escape clears it."];
  // Two lines for the head and the headings, one for the count.
  const place = Math.max(1, height - 3);
  const chosen = Math.min(view.chosen, rows.length - 1);
  const first = Math.max(0, Math.min(chosen - place + 1, rows.length - place));
  const [headings = "", ...lines] = table(rows.slice(first, first + place), columns, width - 2);
  const more = view.list === "rooms" && reading.moreRooms ? ", the first of more" : "";
  return [
    head,
    `  ${headings}`,
    ...lines.map((line, n) => (first + n === chosen ? `${pc.cyan(">")} ${line}` : `  ${line}`)),
    pc.dim(`  ${chosen + 1} of ${rows.length}${more}`),
  ];
}
