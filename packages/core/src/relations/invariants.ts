import { BLOCKED_MAX, FRIENDS_MAX } from "@yellow-harbor/protocol";
import type { RoomsPart } from "../model/state.ts";

/** What must never be among the relations, each in a sentence. */
export function relationViolations({ relations, players }: RoomsPart): string[] {
  return [...relations.byPlayer].flatMap(([player, { friends, blocked, hidden }]) => {
    const isEmpty = friends.length === 0 && blocked.length === 0 && !hidden;
    return [
      ...(players.byId.has(player) ? [] : [`relations of ${player} are kept, who is gone`]),
      ...(isEmpty ? [`relations of ${player} are kept, of which there are none`] : []),
      ...(friends.length > FRIENDS_MAX ? [`${player} has ${friends.length} friends`] : []),
      ...(blocked.length > 2 * BLOCKED_MAX ? [`${player} has blocked ${blocked.length}`] : []),
    ];
  });
}
