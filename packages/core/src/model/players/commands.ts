import type { AccountId, ConfigName, PlayerArgs, PlayerId, SaidView, SetRelations } from "@yellow-harbor/protocol";
import type { Ban } from "../bans/state.ts";
import type { Latency } from "../latency.ts";
import type { Identity } from "./state.ts";

/** Who says hello and from where. */
export interface Caller {
  readonly identity?: Identity | undefined;
  /** Whom it knows and has blocked, where its account token says so. */
  readonly relations?: SetRelations | undefined;
  /** An account token that is good for one use. */
  readonly token?: UsedToken | undefined;
  /** Address it comes from. It is in no event. */
  readonly from?: string | undefined;
}

export interface UsedToken {
  readonly id: string;
  readonly untilMs: number;
}

/** Somebody who has said something lately. It may be gone. */
export interface Heard {
  readonly name: string;
  readonly account?: AccountId | undefined;
  readonly said: readonly SaidView[];
}

export type PlayerCommand =
  | ({
      readonly do: "player.connect";
      readonly name: string;
      readonly build: string;
      readonly lobby: ConfigName | undefined;
      readonly connection: number;
      /** Stands for the network it comes from. */
      readonly origin?: string | undefined;
    } & Caller)
  | ({
      readonly do: "player.resume";
      readonly player: PlayerId;
      readonly connection: number;
      /** Revision of what it was told alone, by its own word; absent when it does not say. */
      readonly heard?: number | undefined;
      /** Number of the resume token that was shown. */
      readonly shown?: number | undefined;
    } & Caller)
  | {
      readonly do: "player.set-attributes";
      readonly player: PlayerId;
      readonly args: PlayerArgs<"player.set-attributes">;
    }
  | { readonly do: "player.switch-lobby"; readonly player: PlayerId; readonly args: PlayerArgs<"player.switch-lobby"> }
  | {
      readonly do: "player.report";
      readonly player: PlayerId;
      readonly args: PlayerArgs<"player.report">;
      /** What is known of the one who is reported beside what the state has: who it was, and what it said lately. */
      readonly heard: Heard | undefined;
    }
  /** An operator moves it. */
  | { readonly do: "player.move-to-lobby"; readonly player: PlayerId; readonly lobby: ConfigName }
  /** What the echoes of its clock gave. */
  | { readonly do: "player.measure"; readonly player: PlayerId; readonly latency: Latency }
  /** A connection is gone without a goodbye. Says nothing when the player is here by another one meanwhile. */
  | { readonly do: "player.lose"; readonly player: PlayerId; readonly connection: number }
  /** The grace of a lost player is over. */
  | { readonly do: "player.give-up"; readonly player: PlayerId }
  | { readonly do: "player.leave"; readonly player: PlayerId }
  /** An operator kicks a player: it is gone, and its connection ends. */
  | {
      readonly do: "player.kick";
      readonly player: PlayerId;
      readonly reason: string | undefined;
      /** The ban that it is kicked for. */
      readonly ban?: Ban;
    };
