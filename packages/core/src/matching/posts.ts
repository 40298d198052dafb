import type { EntrantPlayer } from "./entrant.ts";
import type { MatchRules } from "./rules.ts";

/** The posts of one side, a role each. */
export const postsOf = ({ lineUp }: MatchRules): string[] =>
  (lineUp?.perSide ?? []).flatMap(({ role, count }) => Array.from({ length: count }, () => role));

/** How many posts can find a player of their own. */
export const postsFilled = (players: readonly EntrantPlayer[], posts: readonly string[]): number =>
  fill(players, posts).size;

/** The role that each player of a side takes, as many as can be filled, by id. */
export const rolesTaken = (players: readonly EntrantPlayer[], posts: readonly string[]): [string, string][] =>
  [...fill(players, posts)].map(([{ id }, post]) => [id, posts[post] ?? ""]);

/** The post of each player that has one, as many as can be: a matching by augmenting paths (Kuhn, 1955). */
function fill(players: readonly EntrantPlayer[], posts: readonly string[]): Map<EntrantPlayer, number> {
  const postOf = new Map<EntrantPlayer, number>();
  const place = (post: number, seen: Set<EntrantPlayer>): boolean => {
    for (const player of players) {
      if (seen.has(player) || !player.roles.includes(posts[post] ?? "")) continue;
      seen.add(player);
      const held = postOf.get(player);
      if (held !== undefined && !place(held, seen)) continue;
      postOf.set(player, post);
      return true;
    }
    return false;
  };
  for (const post of posts.keys()) place(post, new Set());
  return postOf;
}
