import type { Attention, PlayerArgs, PlayerId, Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../../model/decision.ts";
import { revisionReply, roomOf } from "../../model/find-room.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";

/** A member says that its game is in the background, or in front again. */
export function setBackground(
  { state }: RoomsContext,
  player: PlayerId,
  { background }: PlayerArgs<"room.set-background">,
): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  const attention: Attention | null = background ? "background" : null;
  const reply = revisionReply(room.id);
  if (member.attention === attention) return accept([], { reply });
  return accept([{ kind: "room.background-set", room: room.id, player, attention }], { reply });
}

/** Silence is what the service sees; what a member has said of itself counts for more. */
export function markSilent(
  { state }: RoomsContext,
  { player, silent }: Extract<RoomCommand, { do: "room.mark-silent" }>,
): Decision {
  const room = state.rooms.byId.get(state.players.byId.get(player)?.room ?? "");
  const member = room?.members.get(player);
  const [from, to]: (Attention | null)[] = silent ? [null, "silent"] : ["silent", null];
  if (room === undefined || member?.attention !== from || to === undefined) return nothingToDo;
  return accept([{ kind: "room.background-set", room: room.id, player, attention: to }]);
}
