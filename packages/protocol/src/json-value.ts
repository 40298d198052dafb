import { z } from "zod";

/** How deeply arrays and objects of a player's JSON may nest. */
export const JSON_DEPTH_MAX = 16;

/** Whether a parsed JSON value nests at most `most` levels deep. Stops looking as soon as it does not. */
export function nestsWithin(value: unknown, most: number): boolean {
  if (typeof value !== "object" || value === null) return true;
  if (most === 0) return false;
  return Object.values(value).every((inner) => nestsWithin(inner, most - 1));
}

/** Any JSON of a player's own, bounded in depth here and in bytes where it is used. */
export const PlayerJson = z
  .unknown()
  .refine((value) => value !== undefined, "expected a JSON value")
  .refine(
    (value) => nestsWithin(value, JSON_DEPTH_MAX),
    `expected JSON that nests at most ${JSON_DEPTH_MAX} levels deep`,
  )
  .meta({ id: "PlayerJson", description: `Any JSON value, at most ${JSON_DEPTH_MAX} levels deep.` });
