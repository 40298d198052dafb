import { z } from "zod";

/** How deeply arrays and objects of a player's JSON may nest. */
export const JSON_DEPTH_MAX = 16;

/** Whether a parsed JSON value nests at most `most` levels deep. Stops looking as soon as it does not. */
export function nestsWithin(value: unknown, max: number): boolean {
  if (typeof value !== "object" || value === null) return true;
  if (max === 0) return false;
  return Object.values(value).every((inner) => nestsWithin(inner, max - 1));
}

/**
 * Why a parsed JSON value would not arrive everywhere as it was sent, or undefined: numbers that a double does not hold,
 * which come back as others, and texts that are not Unicode, which clients in other languages cannot read (RFC 8259,
 * sections 6 and 8.2).
 */
export function unsafeJson(value: unknown): string | undefined {
  if (typeof value === "number") return unsafeNumber(value);
  if (typeof value === "string") return loneSurrogate.test(value) ? "a text holds half a character" : undefined;
  if (typeof value !== "object" || value === null) return undefined;
  for (const [key, inner] of Object.entries(value)) {
    const why = (Array.isArray(value) ? undefined : unsafeJson(key)) ?? unsafeJson(inner);
    if (why !== undefined) return why;
  }
  return undefined;
}

function unsafeNumber(value: number): string | undefined {
  if (!Number.isFinite(value)) return "a number is too large for a double";
  if (Number.isInteger(value) && !Number.isSafeInteger(value)) {
    return "a whole number lies beyond 2^53 and would come back as another; send it as text";
  }
  return undefined;
}

/** A surrogate without its other half. */
const loneSurrogate = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

/** Any JSON of a player's own, bounded in depth here and in bytes where it is used. */
export const PlayerJson = z
  .unknown()
  .refine((value) => value !== undefined, "expected a JSON value")
  .refine(
    (value) => nestsWithin(value, JSON_DEPTH_MAX),
    `expected JSON that nests at most ${JSON_DEPTH_MAX} levels deep`,
  )
  .superRefine((value, context) => {
    const why = nestsWithin(value, JSON_DEPTH_MAX) ? unsafeJson(value) : undefined;
    if (why !== undefined) context.addIssue({ code: "custom", message: why });
  })
  .meta({ id: "PlayerJson", description: `Any JSON value, at most ${JSON_DEPTH_MAX} levels deep.` });
