import type { Series, SeriesFigures, SeriesPoint, SeriesSpan } from "@yellow-harbor/protocol";
import type { Curve } from "./plot.tsx";

/** How long each span is, and how many of its points one bar stands for. */
export const spanOf: Readonly<
  Record<SeriesSpan, { readonly ms: number; readonly bar: number; readonly word: string }>
> = {
  hour: { ms: 3_600_000, bar: 15, word: "hour" },
  day: { ms: 86_400_000, bar: 12, word: "day" },
  month: { ms: 31 * 86_400_000, bar: 12, word: "month" },
};

export type Shown = Readonly<Partial<Record<keyof SeriesFigures, string>>>;

/** What is drawn as a line, and what as bars: the colour is the place in its list. */
export const LINES: Shown = { players: "connected", inRooms: "in rooms", playing: "playing", searching: "searching" };
export const BARS: Shown = { arrived: "came in", matched: "matched", played: "played", failed: "came to nothing" };

/** A curve of each, with a gap where the service did not look. */
export function linesOf({ everyMs, points }: Series): Curve[] {
  return Object.entries(LINES).map(([key, name], colour) => ({
    name,
    colour,
    points: points.flatMap((point, n): (readonly [number, number | null])[] => {
      const before = points[n - 1]?.atMs ?? point.atMs;
      const here = [point.atMs, point[key as keyof SeriesFigures]] as const;
      return point.atMs - before > 2.5 * everyMs ? [[before + everyMs, null], here] : [here];
    }),
  }));
}

/** Sums of so many points each, at the end of their span. */
export function barsOf({ everyMs, points }: Series, bar: number): Curve[] {
  const spanMs = everyMs * bar;
  return Object.entries(BARS).map(([key, name], colour) => {
    const sums = new Map<number, number>();
    for (const point of points) {
      const endMs = Math.ceil(point.atMs / spanMs) * spanMs;
      sums.set(endMs, (sums.get(endMs) ?? 0) + point[key as keyof SeriesFigures]);
    }
    return { name, colour, points: [...sums] };
  });
}

export const sumOf = (points: readonly SeriesPoint[], key: keyof SeriesFigures): number =>
  points.reduce((sum, point) => sum + point[key], 0);

export const mostOf = (points: readonly SeriesPoint[]): SeriesPoint | undefined =>
  points.reduce<SeriesPoint | undefined>(
    (most, point) => (most && most.players >= point.players ? most : point),
    undefined,
  );
