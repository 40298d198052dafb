import type { PlayerId, PlayerReply } from "@yellow-harbor/protocol";
import { accept, type Decision, type RoomsContext } from "../model/decision.ts";
import { roomOf } from "../model/find-room.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import { runOf } from "../model/rooms/state.ts";
import { ownParty } from "./members.ts";

/** The leader fetches those who go along into the room that it is in, also out of rooms that do not play. */
export function bring({ state }: RoomsContext, id: PlayerId): Decision<PlayerReply<"party.bring">> {
  const found = ownParty(state, id, "bring the others along");
  if ("refused" in found) return found;
  const present = roomOf(state, id);
  if ("refused" in present) return present;
  const { room } = present;
  const players = [...found.party.members.values()]
    .filter(({ id: one, follows, presence }) => one !== id && follows && presence === "here" && !room.members.has(one))
    .map((one) => one.id)
    .filter((one) => runOf(state.rooms.byId.get(state.players.byId.get(one)?.room ?? "")) === null);
  const called: PartyEvent = { kind: "party.called", party: found.party.id, room: room.id, players };
  return accept(players.length === 0 ? [] : [called], {
    reply: (after) => ({ came: players.filter((one) => after.rooms.byId.get(room.id)?.members.has(one)) }),
  });
}
