import type { ConfigName, GoneReason, PlayerId } from "@yellow-harbor/protocol";

export type LobbyCommand =
  | { readonly do: "lobby.stand"; readonly lobby: ConfigName; readonly player: PlayerId; readonly name: string }
  | {
      readonly do: "lobby.step-out";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly reason: GoneReason;
    }
  | { readonly do: "lobby.mark-away"; readonly lobby: ConfigName; readonly player: PlayerId }
  | { readonly do: "lobby.mark-back"; readonly lobby: ConfigName; readonly player: PlayerId };
