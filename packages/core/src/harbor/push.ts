import type { LobbyNews, OwnNews, Patch, PlayerId, RoomNews } from "@yellow-harbor/protocol";
import type { OwedPass } from "../pools/state.ts";
import type { HarborState } from "./state.ts";

/**
 * What somebody has to be told once the events are durable. News of a room or lobby is the same for every receiver, so
 * that it can be encoded once; `to` holds exactly those who have the picture that the patch is for.
 */
export type Push =
  | {
      readonly scope: "lobby";
      readonly id: string;
      readonly to: readonly PlayerId[];
      readonly revision: number;
      readonly news: LobbyNews;
      readonly patch: Patch;
    }
  | {
      readonly scope: "room";
      readonly id: string;
      readonly to: readonly PlayerId[];
      readonly revision: number;
      readonly news: RoomNews;
      readonly patch: Patch;
    }
  | {
      readonly scope: "you";
      readonly to: PlayerId;
      readonly revision: number;
      readonly news: Exclude<OwnNews, { kind: "boarding-pass" }>;
    }
  /** Sent with a signed pass made from the owed one. */
  | { readonly scope: "pass"; readonly to: PlayerId; readonly pass: OwedPass };

type ToldAlone = Extract<Push, { scope: "you" }>;

/** News for one player alone, with the count of what has befallen it so far. */
export const toOne = ({ players }: HarborState, to: PlayerId, news: ToldAlone["news"]): ToldAlone => ({
  scope: "you",
  to,
  revision: players.byId.get(to)?.own?.revision ?? 0,
  news,
});
