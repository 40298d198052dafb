/** A score, and whose it is. */
interface Scored {
  readonly of: string;
  readonly score: number;
}

/** Standard competition ranking ("1224"): higher scores first, ties share a rank and leave a gap behind them. */
export function rank(scores: readonly Scored[]): (Scored & { readonly rank: number })[] {
  const sorted = [...scores].sort((a, b) => b.score - a.score || (a.of < b.of ? -1 : 1));
  const ranked: (Scored & { readonly rank: number })[] = [];
  for (const [n, { of, score }] of sorted.entries()) {
    const above = ranked[n - 1];
    ranked.push({ of, score, rank: above?.score === score ? above.rank : n + 1 });
  }
  return ranked;
}
