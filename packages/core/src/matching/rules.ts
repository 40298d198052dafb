import type { SettingValue } from "@yellow-harbor/protocol";

/** Points `[seconds waited, value]`: straight lines between them, flat after the last. Seconds rise from 0, values never fall. */
export type Curve = readonly (readonly [seconds: number, value: number])[];

/** What a queue asks of every ticket of a match. */
export type QueueNeed =
  /** All have the same value. */
  | { readonly attribute: string; readonly must: "equal" }
  /** All lists share at least one entry. */
  | { readonly attribute: string; readonly must: "overlap" }
  /** The value is one of these. */
  | { readonly attribute: string; readonly oneOf: readonly SettingValue[] }
  /** The number lies within, both ends included. */
  | { readonly attribute: string; readonly from?: number; readonly to?: number };

/** What a ticket asks of the others in its match. */
export type TicketNeed =
  | { readonly attribute: string; readonly must: "equal" }
  | { readonly attribute: string; readonly oneOf: readonly SettingValue[] }
  | { readonly attribute: string; readonly from?: number; readonly to?: number };

/** A number by which the tickets of a match must be close. */
export interface Closeness {
  readonly attribute: string;
  /** Largest gap to any other ticket that a ticket accepts, by the seconds it has waited. */
  readonly gap: Curve;
  /** By which of its players' numbers a party counts. */
  readonly party: "mean" | "highest" | "lowest";
  /** How much a unit of spread weighs in the score of a match. */
  readonly weight: number;
}

/** What the tickets of a match had better have in common: where they have not, its score is higher. */
export interface Preference {
  readonly attribute: string;
  /** The same value, or lists that share an entry. Who says nothing of it goes with everybody. */
  readonly must: "equal" | "overlap";
  /** Points of score where it does not hold. */
  readonly weight: number;
}

/** Who has the first choice of a match, and when a match is good enough to be made. */
export type Choosing =
  /** The longest waiting ticket chooses first, and a match is made as soon as its tickets fit. */
  | { readonly by: "oldest" }
  /**
   * The match with the lowest price is made first: its score less what the mean wait of its tickets makes up for, by
   * `allowance`. One whose price is above zero is not made yet.
   */
  | { readonly by: "price"; readonly allowance: Curve };

export interface MatchRules {
  readonly sides: {
    readonly count: number;
    /** Players of each side. */
    readonly min: number;
    readonly max: number;
    /** Whether the sides of a match may differ in size. */
    readonly uneven: boolean;
  };
  readonly party: {
    readonly max: number;
    /** Whether a party stays on one side. */
    readonly together: boolean;
  };
  readonly needs: readonly QueueNeed[];
  readonly closeness: readonly Closeness[];
  readonly latency: { readonly regions: readonly string[]; readonly ceilingMs: Curve } | null;
  /** Roles that each side must fill; players name those they can take in the attribute, one or a list. */
  readonly lineUp: {
    readonly attribute: string;
    readonly perSide: readonly { readonly role: string; readonly count: number }[];
  } | null;
  /** Once the longest waiting ticket of a match has waited so long, sides of so few will do. In order of time. */
  readonly fewer: readonly { readonly afterMs: number; readonly min: number }[];
  readonly choose: Choosing;
  readonly prefer: readonly Preference[];
  /**
   * Tickets that stand before others: by the value of an attribute, how much longer than they did they count as having
   * waited. Nobody waits longer than that on account of them. It changes who chooses first and the price of a match, and
   * nothing of what a ticket accepts.
   */
  readonly priority: { readonly attribute: string; readonly headStartMs: Readonly<Record<string, number>> } | null;
}

/** What is known of a player or of a party. A list of texts is for overlaps and for roles. */
export type AttributeValue = SettingValue | readonly string[];
export type MatchAttributes = Readonly<Record<string, AttributeValue>>;

export interface SearchingPlayer {
  readonly id: string;
  readonly attributes?: MatchAttributes;
  /** Milliseconds to each region that was measured. */
  readonly latencyMs?: Readonly<Record<string, number>>;
}

/** One search by one party. */
export interface SearchingParty {
  readonly ticket: string;
  /** Since when it waits, in milliseconds. */
  readonly sinceMs: number;
  readonly players: readonly SearchingPlayer[];
  /** Of the party as a whole; what is not here is looked for with its players. */
  readonly attributes?: MatchAttributes;
  readonly needs?: readonly TicketNeed[];
}
