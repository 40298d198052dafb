import type { MatchPlayer, PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { RoomsSeen } from "../model/seen.ts";

interface Promised {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
}

/** Who is promised a berth, with what an instance has to know of it. */
export function matchPlayer(seen: RoomsSeen, room: RoomId, { id, name, place }: Promised): MatchPlayer {
  const member = seen.room(room)?.members.get(id);
  const account = seen.player(id)?.identity?.account;
  const party = seen.partyOf(id);
  return {
    id,
    name,
    place,
    ...(member?.side != null && { side: member.side }),
    ...(member?.role !== undefined && { role: member.role }),
    ...(member?.attributes && { attributes: member.attributes }),
    ...(party && { party: party.id }),
    ...(account !== undefined && { account }),
  };
}
