import type { EntrantPlayer } from "./entrant.ts";
import type { MatchRules } from "./rules.ts";

/** The posts of one side, a role each. */
export const postsOf = ({ lineUp }: MatchRules): string[] =>
  (lineUp?.perSide ?? []).flatMap(({ role, count }) => Array.from({ length: count }, () => role));

/** How many posts can find a player of their own: a matching by augmenting paths (Kuhn, 1955). */
export function postsFilled(players: readonly EntrantPlayer[], posts: readonly string[]): number {
  const postOf = new Map<EntrantPlayer, number>();
  const fill = (post: number, seen: Set<EntrantPlayer>): boolean => {
    for (const player of players) {
      if (seen.has(player) || !player.roles.includes(posts[post] ?? "")) continue;
      seen.add(player);
      const held = postOf.get(player);
      if (held !== undefined && !fill(held, seen)) continue;
      postOf.set(player, post);
      return true;
    }
    return false;
  };
  return posts.filter((_, post) => fill(post, new Set())).length;
}
