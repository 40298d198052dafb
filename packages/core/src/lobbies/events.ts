import type { ConfigName, GoneReason, PlayerId, Presence } from "@yellow-harbor/protocol";

export type LobbyEvent =
  | { readonly kind: "lobby.stood"; readonly lobby: ConfigName; readonly player: PlayerId; readonly name: string }
  | {
      readonly kind: "lobby.stepped-out";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly reason: GoneReason;
    }
  | {
      readonly kind: "lobby.presence-changed";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly presence: Presence;
    };
