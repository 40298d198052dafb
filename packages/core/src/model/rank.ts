import type { PlayerId, Standing } from "@yellow-harbor/protocol";

/** Standard competition ranking ("1224"): higher scores first, ties share a rank and leave a gap behind them. */
export function rank(scores: readonly { readonly player: PlayerId; readonly score: number }[]): Standing[] {
  const sorted = [...scores].sort((a, b) => b.score - a.score || (a.player < b.player ? -1 : 1));
  const standings: Standing[] = [];
  for (const [n, { player, score }] of sorted.entries()) {
    const above = standings[n - 1];
    standings.push({ player, score, rank: above?.score === score ? above.rank : n + 1 });
  }
  return standings;
}
