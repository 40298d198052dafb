import type { Hello, LobbyView, News, RoomView, Welcome } from "@yellow-harbor/protocol";
import { mergePatch } from "../merge-patch.ts";

/** What a player knows: the lobby or the room it is in, as the service has it. */
export interface Picture {
  readonly lobby: LobbyView | undefined;
  readonly room: RoomView | undefined;
}

export type Patched =
  | { readonly outcome: "applied"; readonly picture: Picture }
  /** Older than the picture, or of something the player is not in any more. */
  | { readonly outcome: "stale" }
  /** News is missing before this: the picture has to be fetched anew. */
  | { readonly outcome: "gap" };

export const pictureOf = ({ lobby, room }: Welcome): Picture => ({ lobby, room });

/** What a hello says of the picture that is still held. */
export function haveOf({ room, lobby }: Picture): { have?: NonNullable<Hello["have"]> } {
  if (room) return { have: { scope: "room", id: room.id, revision: room.revision } };
  return lobby ? { have: { scope: "lobby", id: lobby.id, revision: lobby.revision } } : {};
}

/** The picture after a piece of news. Revisions go up by one, so a gap is seen and a repeat does no harm. */
export function applyNews(picture: Picture, news: Exclude<News, { scope: "you" }>): Patched {
  const held = news.scope === "room" ? picture.room : picture.lobby;
  if (held === undefined || held.id !== news.id || news.revision <= held.revision) return { outcome: "stale" };
  if (news.revision > held.revision + 1) return { outcome: "gap" };
  const patched = { ...mergePatch(held, news.patch), revision: news.revision };
  const next =
    news.scope === "room" ? { ...picture, room: patched as RoomView } : { ...picture, lobby: patched as LobbyView };
  return { outcome: "applied", picture: next };
}
