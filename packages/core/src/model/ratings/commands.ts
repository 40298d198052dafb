import type { AccountId, ConfigName, MatchId, RoomId, Standing } from "@yellow-harbor/protocol";

export type RatingCommand =
  /** A match plays. */
  | { readonly do: "rating.watch"; readonly queue: ConfigName; readonly match: MatchId; readonly room: RoomId }
  /** The result of a room is there. */
  | { readonly do: "rating.settle"; readonly room: RoomId; readonly standings: readonly Standing[] }
  | {
      readonly do: "rating.set";
      readonly queue: ConfigName;
      readonly account: AccountId;
      readonly rating: number;
      readonly deviation: number | undefined;
      readonly by: string;
    }
  | {
      readonly do: "rating.begin-season";
      readonly queue: ConfigName;
      readonly keep: number;
      readonly minDeviation: number | undefined;
      readonly by: string;
    };
