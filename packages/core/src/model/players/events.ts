import type { ConfigName, PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { Latency } from "../latency.ts";

export type PlayerEvent =
  | {
      readonly kind: "player.connected";
      readonly player: PlayerId;
      readonly name: string;
      readonly build: string;
      readonly lobby: ConfigName;
      readonly connection: number;
    }
  | { readonly kind: "player.resumed"; readonly player: PlayerId; readonly connection: number }
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
