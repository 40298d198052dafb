import { type AccountId, isDevice, type MatchPlayer, type PlayerId, type RoomId } from "@yellow-harbor/protocol";
import type { RoomsSeen } from "../model/seen.ts";

interface Promised {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
}

/** Who is promised a berth, with what an instance has to know of it. */
export function matchPlayer(seen: RoomsSeen, room: RoomId, { id, name, place }: Promised): MatchPlayer {
  const member = seen.room(room)?.members.get(id);
  const account = accountOf(seen, id);
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

/** The account that the game's own back end has vouched for; the key of a guest's device is nobody's business. */
export function accountOf(seen: RoomsSeen, id: PlayerId): AccountId | undefined {
  const account = seen.player(id)?.identity?.account;
  return account === undefined || isDevice(account) ? undefined : account;
}
