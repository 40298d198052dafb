/** One look at a process, in numbers by name. */
export type Sample = Readonly<Record<string, number>>;

export interface Limit {
  readonly name: string;
  readonly unit: string;
  /** By what share of its former value, and by how much besides, a figure may grow. */
  readonly share: number;
  readonly besides: number;
}

export interface Growth {
  readonly name: string;
  readonly unit: string;
  readonly before: number;
  readonly after: number;
  readonly max: number;
  readonly grows: boolean;
}

/**
 * Holds the last third of the samples against the second; the first is for warming up. Medians, so that one busy moment
 * of the machine says nothing.
 */
export function growthOf(samples: readonly Sample[], limits: readonly Limit[]): Growth[] {
  const third = Math.floor(samples.length / 3);
  return limits.map(({ name, unit, share, besides }) => {
    const of = (part: readonly Sample[]) => median(part.map((sample) => sample[name] ?? 0));
    const [before, after] = [of(samples.slice(third, 2 * third)), of(samples.slice(2 * third))];
    const max = before * (1 + share) + besides;
    return { name, unit, before, after, max, grows: after > max };
  });
}

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}
