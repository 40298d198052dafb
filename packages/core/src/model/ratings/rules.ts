/** How a queue rates accounts by the results of its matches. */
export interface RatingRules {
  /** Attribute of tickets that the rating stands for; what clients say of it is not looked at. */
  readonly attribute: string;
  /** Of whoever has not been rated yet. */
  readonly start: number;
  readonly deviation: number;
  readonly volatility: number;
  /** How much the volatility may change with one result: the paper's tau. */
  readonly tau: number;
  /** In so long without a match the deviation grows once by the volatility. */
  readonly periodMs: number;
  /** What a result is to a player who left before it. */
  readonly leavers: "lose" | "as-side";
}
