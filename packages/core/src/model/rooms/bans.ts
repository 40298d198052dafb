import { isDevice } from "@yellow-harbor/protocol";
import type { Player } from "../players/state.ts";
import type { Room } from "./state.ts";

/** Bans of one room. With one more the oldest is lifted: the list is in everybody's view of the room. */
const BANNED_MAX = 256;

export function ban(room: Room, player: string, known: Pick<Player, "identity" | "origin"> | undefined): void {
  room.banned.set(player, { account: known?.identity?.account ?? null, origin: known?.origin ?? null });
  const [oldest] = room.banned.keys();
  if (room.banned.size > BANNED_MAX && oldest !== undefined) room.banned.delete(oldest);
}

/** Whether a player is banned from a room, also when it has come again since. */
export function isBanned(
  { banned }: Room,
  { id, identity, origin }: Pick<Player, "id" | "identity" | "origin">,
): boolean {
  if (banned.size === 0 || banned.has(id)) return banned.size > 0;
  const account = identity?.account ?? null;
  const isGuest = account === null || isDevice(account);
  return [...banned.values()].some(
    (mark) => (account !== null && mark.account === account) || (isGuest && origin !== null && mark.origin === origin),
  );
}
