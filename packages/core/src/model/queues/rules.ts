import type { BackfillRules, ConfigName, ConfirmRules, LeaverRules } from "@yellow-harbor/protocol";
import type { MatchRules } from "../../matching/index.ts";
import type { RatingRules } from "../ratings/rules.ts";

export interface QueueRules {
  readonly title: string;
  /** Lobby whose players may search in it, and where its rooms are opened. */
  readonly lobby: ConfigName;
  readonly roomKind: ConfigName;
  /** Attributes that count only when the game's back end vouches for them. */
  readonly vouched: readonly string[];
  readonly match: MatchRules;
  /** After so long a search ends with nobody found; null for never. */
  readonly searchMs: number | null;
  /** Whether the players of a match are asked before it becomes a room; null for not. */
  readonly confirm: ConfirmRules | null;
  /** What becomes of a playing room when somebody leaves it. */
  readonly whenLeft: "play-on" | "backfill" | "end";
  readonly backfill: BackfillRules;
  /** What it costs to leave a match that is being played; null for nothing. */
  readonly leavers: LeaverRules | null;
  /** How accounts are rated by the results of its matches; null for not. */
  readonly rating: RatingRules | null;
  /** How often matches are looked for while somebody waits. */
  readonly passEveryMs: number;
}
