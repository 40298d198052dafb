import type { PlayerReply } from "@yellow-harbor/protocol";
import { lobbies } from "../../lobbies/index.ts";
import { accept, type Decision } from "../../model/decision.ts";
import type { Player } from "../../model/players/state.ts";
import type { Room } from "../../model/rooms/state.ts";
import { unwatchedEvent } from "./spectators.ts";

/** A spectator leaves by itself. */
export function stopWatching(room: Room, { id, lobby }: Player): Decision<PlayerReply<"room.leave">> {
  return accept([unwatchedEvent(room, id, { reason: "left" })], {
    reply: (after) => ({ lobby: lobbies.views.lobby(after, lobby) }),
  });
}
