import type { AccountId, ConfigName, MatchId, PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { RatedPlayer, Rating } from "./state.ts";

/** How a match went for a player. */
export type Went = "won" | "lost" | "drawn" | "left";

export interface RatingChange {
  readonly account: AccountId;
  readonly player: PlayerId;
  readonly went: Went;
  readonly before: number;
  readonly after: Rating;
}

export type RatingEvent =
  /** A match of a rated queue plays: its result will count. */
  | {
      readonly kind: "rating.match-began";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly room: RoomId;
      readonly sides: readonly (readonly RatedPlayer[])[];
    }
  /** With all that it was worked out from, so that it can be worked out anew by other rules. */
  | {
      readonly kind: "rating.changed";
      readonly queue: ConfigName;
      readonly room: RoomId;
      readonly sides: readonly { readonly players: readonly RatedPlayer[]; readonly rank: number }[];
      readonly left: readonly PlayerId[];
      readonly changes: readonly RatingChange[];
    }
  /** A match whose result says nothing of its sides. */
  | { readonly kind: "rating.match-void"; readonly queue: ConfigName; readonly room: RoomId; readonly why: string }
  | {
      readonly kind: "rating.set";
      readonly queue: ConfigName;
      readonly account: AccountId;
      readonly rating: Rating;
      readonly by: string;
    }
  /** A season begins: every rating moves towards the start, and is less certain. */
  | {
      readonly kind: "rating.season-began";
      readonly queue: ConfigName;
      readonly start: number;
      /** Share of the distance to the start that is kept. */
      readonly keep: number;
      readonly minDeviation: number;
      readonly by: string;
    };
