import type { Hello, LobbyView, RoomView, Update, Welcome } from "@yellow-harbor/protocol";
import { mergePatch } from "../merge-patch.ts";

/** What a player knows: the lobby or the room it is in, as the service has it. */
export interface PlayerState {
  readonly lobby: LobbyView | undefined;
  readonly room: RoomView | undefined;
}

export type Patched =
  | { readonly outcome: "applied"; readonly state: PlayerState }
  /** Older than the state, or of something the player is not in any more. */
  | { readonly outcome: "stale" }
  /** An update is missing before this: the state has to be fetched anew. */
  | { readonly outcome: "gap" };

export const stateOf = ({ lobby, room }: Welcome): PlayerState => ({ lobby, room });

/** What a hello says of the state that is still held. */
export function haveOf({ room, lobby }: PlayerState): { have?: NonNullable<Hello["have"]> } {
  if (room) return { have: { scope: "room", id: room.id, revision: room.revision } };
  return lobby ? { have: { scope: "lobby", id: lobby.id, revision: lobby.revision } } : {};
}

/** The state after an update. Revisions go up by one, so a gap is seen and a repeat does no harm. */
export function applyUpdate(state: PlayerState, update: Exclude<Update, { scope: "you" }>): Patched {
  const held = update.scope === "room" ? state.room : state.lobby;
  if (held === undefined || held.id !== update.id || update.revision <= held.revision) return { outcome: "stale" };
  if (update.revision > held.revision + 1) return { outcome: "gap" };
  const patched = { ...mergePatch(held, update.patch), revision: update.revision };
  const next =
    update.scope === "room" ? { ...state, room: patched as RoomView } : { ...state, lobby: patched as LobbyView };
  return { outcome: "applied", state: next };
}
