import type { Command } from "../../model/command.ts";
import type { Consequence } from "../../model/consequence.ts";
import type { HarborState } from "../../model/state.ts";

/** A match becomes a room, whose lobby and kind are the queue's own, or fills up one that plays. */
export function becomeRoom(id: string, { queues }: HarborState): readonly Consequence[] {
  const match = queues.matches.get(id);
  if (match === undefined) return [];
  const { queue, sides, roles, into, tickets } = match;
  const command: Command =
    into === undefined
      ? { do: "room.convene", match: id, queue, lobby: tickets[0]?.lobby ?? "", sides, roles }
      : { do: "room.admit", match: id, room: into, sides, roles };
  return [{ command, otherwise: ({ detail }) => ({ do: "queue.put-back", match: id, why: detail }) }];
}

/** The room of a match starts at once; when it cannot, it goes. */
export const startMatch = (room: string): Consequence => ({
  command: { do: "room.launch-match", room },
  otherwise: ({ detail }) => ({
    do: "room.dissolve",
    room,
    reason: `its match could not start: ${detail}`,
    by: "operator",
  }),
});

/** What came to nothing before it was played: the room goes, and with it gone whoever was in it searches on. */
export function undoMatch(room: string, why: string, { queues, rooms }: HarborState): readonly Command[] {
  const match = queues.matches.get(queues.byRoom.get(room) ?? "");
  if (match === undefined || !match.forming) return [];
  if (!rooms.byId.has(room)) return [{ do: "queue.put-back", match: match.id, why }];
  return [{ do: "room.dissolve", room, reason: `its match failed: ${why}`, by: "operator" }];
}
