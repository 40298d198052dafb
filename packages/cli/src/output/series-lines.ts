import type { Series, SeriesFigures, SeriesPoint } from "@yellow-harbor/protocol";
import { table } from "./table.ts";

/** Rows that a screen has place for: so many points each are put together. */
const ROWS = 12;

const HEADINGS: readonly (readonly [keyof SeriesFigures, string, "mean" | "sum"])[] = [
  ["players", "CONNECTED", "mean"],
  ["inRooms", "IN ROOMS", "mean"],
  ["playing", "PLAYING", "mean"],
  ["searching", "SEARCHING", "mean"],
  ["arrived", "CAME IN", "sum"],
  ["matched", "MATCHED", "sum"],
  ["started", "STARTED", "sum"],
  ["failed", "CAME TO NOTHING", "sum"],
  ["played", "PLAYED", "sum"],
];

interface Row {
  readonly endMs: number;
  readonly points: readonly SeriesPoint[];
}

/** Figures over time, the newest last. */
export function seriesLines({ everyMs, points }: Series, spanMs: number, width: number): string[] {
  if (points.length === 0) return ["Nothing is kept yet; a point comes every few seconds, and coarser ones later."];
  const rowMs = Math.max(1, Math.round(spanMs / ROWS / everyMs)) * everyMs;
  const rows = new Map<number, SeriesPoint[]>();
  for (const point of points) {
    const endMs = Math.ceil(point.atMs / rowMs) * rowMs;
    rows.set(endMs, [...(rows.get(endMs) ?? []), point]);
  }
  return table<Row>(
    [...rows].map(([endMs, inRow]) => ({ endMs, points: inRow })),
    [
      { heading: "UP TO", value: ({ endMs }) => timeOf(endMs, spanMs) },
      ...HEADINGS.map(([key, heading, how]) => ({
        heading,
        align: "right" as const,
        value: ({ points: inRow }: Row) => {
          const sum = inRow.reduce((all, point) => all + point[key], 0);
          return String(Math.round(how === "sum" ? sum : sum / inRow.length));
        },
      })),
    ],
    width,
  );
}

/** Local time: of the day, and for more than a day with the day. */
function timeOf(ms: number, spanMs: number): string {
  const at = new Date(ms);
  const two = (n: number) => String(n).padStart(2, "0");
  const time = `${two(at.getHours())}:${two(at.getMinutes())}`;
  return spanMs <= 86_400_000 ? time : `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())} ${time}`;
}
