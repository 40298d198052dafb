import type { ConfigName, GoneReason, PlayerId, Presence } from "@yellow-harbor/protocol";
import type { OutOfRoom } from "./events.ts";

export type LobbyCommand =
  | {
      readonly do: "lobby.join";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly presence: Presence;
      readonly because?: OutOfRoom;
      readonly moved?: boolean | undefined;
    }
  | {
      readonly do: "lobby.leave";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly reason: GoneReason;
    }
  | { readonly do: "lobby.mark-away"; readonly lobby: ConfigName; readonly player: PlayerId }
  | { readonly do: "lobby.mark-back"; readonly lobby: ConfigName; readonly player: PlayerId }
  /** The numbers have changed since the players were told them. */
  | { readonly do: "lobby.tally"; readonly lobby: ConfigName };
