import type {
  AccountId,
  ConfigName,
  PlayerAttributes,
  PlayerId,
  ReportReason,
  RoomId,
  RunId,
  SaidView,
} from "@yellow-harbor/protocol";
import type { Latency } from "../latency.ts";
import type { UsedToken } from "./commands.ts";
import type { Identity } from "./state.ts";

interface ReportedPlayer {
  readonly id: PlayerId;
  readonly name: string;
  readonly account?: AccountId;
}

export type PlayerEvent =
  | { readonly kind: "player.attributes-set"; readonly player: PlayerId; readonly attributes: PlayerAttributes }
  | {
      readonly kind: "player.lobby-switched";
      readonly player: PlayerId;
      readonly from: ConfigName;
      readonly lobby: ConfigName;
      readonly uniqueName?: string;
      readonly by?: "operator";
    }
  | {
      readonly kind: "player.invites-muted";
      readonly player: PlayerId;
      readonly muted: boolean;
      readonly exceptFriends?: true;
    }
  | {
      readonly kind: "player.connected";
      readonly player: PlayerId;
      readonly name: string;
      readonly build: string;
      readonly lobby: ConfigName;
      readonly connection: number;
      readonly identity?: Identity;
      readonly origin?: string;
      /** Where names are unique: the lobby and the skeleton of the name. */
      readonly uniqueName?: string;
      readonly token?: UsedToken;
    }
  | {
      readonly kind: "player.resumed";
      readonly player: PlayerId;
      readonly connection: number;
      /** Number of the resume token; absent when it came by its account. */
      readonly shown?: number;
    }
  /** A guest has become an account, or what its back end vouches for is other than before. */
  | {
      readonly kind: "player.identified";
      readonly player: PlayerId;
      readonly identity: Identity;
      readonly token?: UsedToken;
    }
  /** Those who run the game are told of somebody's conduct. It changes nothing. */
  | {
      readonly kind: "player.reported";
      readonly player: ReportedPlayer;
      readonly by: ReportedPlayer;
      readonly reason: ReportReason;
      readonly text?: string;
      readonly lobby: ConfigName;
      readonly room?: RoomId;
      readonly run?: RunId;
      readonly said: readonly SaidView[];
    }
  | { readonly kind: "player.measured"; readonly player: PlayerId; readonly latency: Latency }
  | { readonly kind: "player.lost"; readonly player: PlayerId; readonly untilMs: number }
  | {
      readonly kind: "player.left";
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: "left" | "lost" | "kicked";
      readonly lobby: ConfigName;
      /** The room the player was in. */
      readonly room: RoomId | null;
    };
