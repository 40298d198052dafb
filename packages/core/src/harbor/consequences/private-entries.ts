import type { PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { Command } from "../../model/command.ts";
import type { HarborState } from "../../model/state.ts";
import { privateEntries } from "../../private-entries/index.ts";

/** Who has come hears of what is for it, or for its side. */
export const showJoined = (state: HarborState, room: RoomId, player: PlayerId): readonly Command[] =>
  privateEntries.views.seenBy(state, room, player).length === 0
    ? []
    : [{ do: "private.show", room, players: [player] }];

/** What a member has written goes with it. Who stays to look on reads none any more. */
export function dropPrivate(state: HarborState, room: RoomId, player: PlayerId, watches: boolean): readonly Command[] {
  if (!state.privateEntries.byRoom.has(room)) return [];
  return [
    { do: "private.drop-member", room, player },
    ...(watches ? [{ do: "private.show", room, players: [player] } as const] : []),
  ];
}

/** Who has changed sides reads what is for the new one, and nothing for the former. */
export function showNewSides(state: HarborState, room: RoomId, players: readonly PlayerId[]): readonly Command[] {
  const entries = [...(state.privateEntries.byRoom.get(room)?.values() ?? [])];
  return players.length > 0 && entries.some(({ to }) => "side" in to) ? [{ do: "private.show", room, players }] : [];
}
