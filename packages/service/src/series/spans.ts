import { SERIES_COUNTS, SERIES_GAUGES, type SeriesFigures, type SeriesSpan } from "@yellow-harbor/protocol";

const MINUTE_MS = 60_000;
const HOUR_MS = 60 * MINUTE_MS;
const DAY_MS = 24 * HOUR_MS;

interface Span {
  /** Of a point. */
  readonly everyMs: number;
  /** How long its points are kept. */
  readonly keepMs: number;
}

/** What is kept, each made of the one before: an hour of points of ten seconds, and so on. */
export const spans: Readonly<Record<SeriesSpan, Span>> = {
  hour: { everyMs: 10_000, keepMs: HOUR_MS },
  day: { everyMs: 5 * MINUTE_MS, keepMs: DAY_MS },
  month: { everyMs: 2 * HOUR_MS, keepMs: 31 * DAY_MS },
};

/** Several points as one: averages of what is so, sums of what happens. */
export function together(points: readonly SeriesFigures[]): SeriesFigures {
  const sum = (name: keyof SeriesFigures) => points.reduce((all, point) => all + point[name], 0);
  const mean = (name: keyof SeriesFigures) => Math.round((10 * sum(name)) / Math.max(1, points.length)) / 10;
  return Object.fromEntries([
    ...SERIES_GAUGES.map((name) => [name, mean(name)]),
    ...SERIES_COUNTS.map((name) => [name, sum(name)]),
  ]) as SeriesFigures;
}
