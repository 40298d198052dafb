import type { ConfigName } from "@yellow-harbor/protocol";
import type { MatchRules } from "../../matching/index.ts";

export interface ConfirmRules {
  readonly withinMs: number;
  /** Until a player may search again after the first, second ... match in a row that it let go; the last for all after. */
  readonly pausesMs: readonly number[];
  /** After so long without, the next counts as the first. */
  readonly forgetMs: number;
}

export interface FillRules {
  /** How long a room asks after somebody has left. */
  readonly withinMs: number;
  /** How many players may come into a room so, in all. */
  readonly most: number;
}

export interface QueueRules {
  readonly title: string;
  /** Lobby whose players may search in it, and where its rooms are opened. */
  readonly lobby: ConfigName;
  readonly roomKind: ConfigName;
  readonly match: MatchRules;
  /** After so long a search ends with nobody found; null for never. */
  readonly searchMs: number | null;
  /** Whether the players of a match are asked before it becomes a room; null for not. */
  readonly confirm: ConfirmRules | null;
  /** What becomes of a playing room when somebody leaves it. */
  readonly whenLeft: "play-on" | "fill" | "end";
  readonly fill: FillRules;
  /** How often matches are looked for while somebody waits. */
  readonly passEveryMs: number;
}
