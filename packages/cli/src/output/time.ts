/** How long ago or ahead, in the largest unit that says enough: `4 s ago`, `in 12 min`. */
export function relative(atMs: number, nowMs: number): string {
  const deltaMs = atMs - nowMs;
  const span = duration(Math.abs(deltaMs));
  return deltaMs <= 0 ? `${span} ago` : `in ${span}`;
}

export function duration(ms: number): string {
  const s = Math.round(ms / 1000);
  if (s < 120) return `${s} s`;
  if (s < 7_200) return `${Math.round(s / 60)} min`;
  if (s < 172_800) return `${Math.round(s / 3_600)} h`;
  return `${Math.round(s / 86_400)} d`;
}

/** A time as the user wants it: relative, or with `--absolute` in ISO 8601. */
export function when(atMs: number, nowMs: number, absolute: boolean): string {
  return absolute ? new Date(atMs).toISOString() : relative(atMs, nowMs);
}
