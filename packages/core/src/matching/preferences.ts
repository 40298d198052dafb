import type { AttributeValue, MatchRules, Preference, SearchingParty } from "./rules.ts";

/** What tickets have in common of one preference: a value, the entries of lists, null for nothing, undefined where nobody says. */
export type Preferred = string | readonly string[] | null | undefined;

/** What two have in common who each have something in common already. */
export function inCommon(one: Preferred, other: Preferred): Preferred {
  if (one === undefined || other === undefined) return one ?? other;
  if (one === null || other === null) return null;
  if (typeof one === "string" || typeof other === "string") return one === other ? one : null;
  const shared = one.filter((entry) => other.includes(entry));
  return shared.length > 0 ? shared : null;
}

/** What a party has of each preference: what it says as a whole, or what its players have in common. */
export function preferredOf({ prefer }: MatchRules, { attributes, players }: SearchingParty): readonly Preferred[] {
  return prefer.map((preference) => {
    const own = attributes?.[preference.attribute];
    const values = own === undefined ? players.map((player) => player.attributes?.[preference.attribute]) : [own];
    return values.map((value) => asPreferred(preference, value)).reduce(inCommon, undefined);
  });
}

function asPreferred({ must }: Preference, value: AttributeValue | undefined): Preferred {
  if (value === undefined) return undefined;
  if (must === "equal") return JSON.stringify(value);
  return Array.isArray(value) ? (value as readonly string[]) : [String(value)];
}

/** What a set of tickets that grows has in common, by how many have been added to the first. */
export class SharedPreferences {
  readonly areAny: boolean;
  /** What adding one costs at the most, in tickets looked at. */
  readonly work: number;
  readonly #rules: MatchRules;
  readonly #common: (readonly Preferred[])[] = [];

  constructor(rules: MatchRules) {
    this.#rules = rules;
    this.areAny = rules.prefer.length > 0;
    this.work = rules.prefer.reduce((sum, { must }) => sum + (must === "overlap" ? 8 : 1), 0);
  }

  start(preferred: readonly Preferred[]): void {
    this.#common[0] = preferred;
  }

  /** Points of the set with one more than so many: never fewer than before. */
  add(preferred: readonly Preferred[], added: number): number {
    const before = this.#common[added] as readonly Preferred[];
    this.#common[added + 1] = before.map((one, n) => inCommon(one, preferred[n]));
    return this.points(added + 1);
  }

  /** Points of score for what is not held in common. */
  points(added: number): number {
    const common = this.#common[added] as readonly Preferred[];
    let points = 0;
    for (let n = 0; n < common.length; n++) {
      if (common[n] === null) points += (this.#rules.prefer[n] as Preference).weight;
    }
    return points;
  }
}

/** The attributes of preferences that tickets do not share. */
export function unmetOf({ prefer }: MatchRules, all: readonly (readonly Preferred[])[]): readonly string[] {
  return prefer.flatMap(({ attribute }, n) =>
    all.map((preferred) => preferred[n]).reduce(inCommon, undefined) === null ? [attribute] : [],
  );
}
