const RELATIVE = /^-(\d+)(s|m|h|d)$/;
const MS: Readonly<Record<string, number>> = { s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 };

/** What a time may be typed as. */
export const TIME_FORMS = "a time such as 2031-05-01T20:15:00Z, or how long ago: -90s, -5m, -2h, -1d";

/** A time as it is typed, in milliseconds since 1970; undefined for what is none. */
export function timeOf(typed: string, nowMs: number): number | undefined {
  const [, amount, unit] = RELATIVE.exec(typed) ?? [];
  if (amount !== undefined && unit !== undefined) return nowMs - Number(amount) * (MS[unit] ?? 0);
  const atMs = /^\d{4}-\d{2}-\d{2}/.test(typed) ? Date.parse(typed) : Number.NaN;
  return Number.isNaN(atMs) ? undefined : atMs;
}
