/** One measurement of ours or of the ceiling, in the row's unit. */
export type Measure = () => Promise<number>;

/** A benchmark row: ours beside a ceiling, measured in turns in the same run. */
export interface Row {
  readonly name: string;
  readonly about: string;
  readonly unit: string;
  readonly goal: number;
  readonly higherIsBetter: boolean;
  /** How often each is measured. */
  readonly rounds: number;
  /** How often each is run before it is measured: a service that has run for a minute is not compiled any more. */
  readonly warmUps?: number;
  /** Makes ready; what is returned is measured in turns and then ended. */
  readonly prepare: () => Promise<Prepared>;
}

export interface Prepared {
  readonly ours: Measure;
  readonly ceiling: Measure;
  /** Where the time goes, for a row that misses its goal. */
  readonly whereTheTimeGoes?: () => string;
  readonly end: () => Promise<void>;
}

export interface RowResult {
  readonly name: string;
  readonly unit: string;
  readonly ours: number;
  readonly ceiling: number;
  /** Ours divided by the ceiling. */
  readonly ratio: number;
  readonly goal: number;
  readonly higherIsBetter: boolean;
  readonly holds: boolean;
  /** Lowest and highest of the rounds. */
  readonly spread: { readonly ours: readonly [number, number]; readonly ceiling: readonly [number, number] };
  readonly note?: string;
}

export async function runRow(row: Row, progress: (text: string) => void): Promise<RowResult> {
  const prepared = await row.prepare();
  const ours: number[] = [];
  const ceiling: number[] = [];
  try {
    for (let n = 0; n < (row.warmUps ?? 0); n++) {
      await prepared.ceiling();
      await prepared.ours();
    }
    for (let round = 1; round <= row.rounds; round++) {
      // In turns, so that a busy machine slows both.
      ceiling.push(await prepared.ceiling());
      ours.push(await prepared.ours());
      progress(
        `${row.name} round ${round} of ${row.rounds}: ours ${text(ours.at(-1))}, ceiling ${text(ceiling.at(-1))} ${row.unit}`,
      );
    }
  } finally {
    await prepared.end();
  }
  const ratio = median(ours) / median(ceiling);
  const holds = row.higherIsBetter ? ratio >= row.goal : ratio <= row.goal;
  const note = holds ? undefined : prepared.whereTheTimeGoes?.();
  return {
    name: row.name,
    unit: row.unit,
    ours: median(ours),
    ceiling: median(ceiling),
    ratio,
    goal: row.goal,
    higherIsBetter: row.higherIsBetter,
    holds,
    spread: { ours: range(ours), ceiling: range(ceiling) },
    ...(note !== undefined && { note }),
  };
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  const upper = sorted[middle] ?? Number.NaN;
  return sorted.length % 2 === 1 ? upper : ((sorted[middle - 1] ?? upper) + upper) / 2;
}

const range = (values: readonly number[]): [number, number] => [Math.min(...values), Math.max(...values)];

export const text = (value: number | undefined) =>
  value === undefined ? "-" : value.toLocaleString("en-US", { maximumFractionDigits: Math.abs(value) < 100 ? 1 : 0 });
