import { z } from "zod";
import { AtMs } from "./basics.ts";

/** What is so at a moment, and over a span of time on average. */
const gauges = {
  players: z.number().meta({ description: "Players who are connected." }),
  inLobbies: z.number(),
  searching: z.number().meta({ description: "Players who search in a queue." }),
  inRooms: z.number(),
  playing: z.number().meta({ description: "Of those in rooms, those whose room plays." }),
  rooms: z.number(),
  instances: z.number().meta({ description: "Instances that run." }),
};

/** What happens, and over a span of time in all. */
const counts = {
  arrived: z.number().meta({ description: "Players who came in." }),
  matched: z.number().meta({ description: "Matches that queues made." }),
  started: z.number().meta({ description: "Travels that ended with everybody there." }),
  failed: z.number().meta({ description: "Travels that came to nothing." }),
  played: z.number().meta({ description: "Matches with a result." }),
};

export const SERIES_GAUGES = Object.keys(gauges) as (keyof typeof gauges)[];
export const SERIES_COUNTS = Object.keys(counts) as (keyof typeof counts)[];

export const SeriesFigures = z.object({ ...gauges, ...counts });
export type SeriesFigures = z.infer<typeof SeriesFigures>;

/** Averages of what is so, and sums of what happens, over one span of time. */
export const SeriesPoint = SeriesFigures.extend({ atMs: AtMs.meta({ description: "When its span ended." }) });
export type SeriesPoint = z.infer<typeof SeriesPoint>;

export const SeriesSpan = z
  .enum(["hour", "day", "month"])
  .meta({ id: "SeriesSpan", description: "How far it goes back." });
export type SeriesSpan = z.infer<typeof SeriesSpan>;

export const SeriesQuery = z.object({ span: SeriesSpan.default("hour") });

export const Series = z
  .object({
    everyMs: z.int().meta({ description: "Span of a point, in milliseconds." }),
    points: z
      .array(SeriesPoint)
      .meta({ description: "The oldest first. A span in which the service did not run has none." }),
  })
  .meta({ id: "Series", description: "Figures of the service over time." });
export type Series = z.infer<typeof Series>;
