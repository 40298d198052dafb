import { type Problem, type ProblemCode, problem, type SettingValue } from "@yellow-harbor/protocol";
import { endOf } from "./curve.ts";
import { type Preferred, preferredOf } from "./preferences.ts";
import type {
  AttributeValue,
  Closeness,
  MatchRules,
  QueueNeed,
  SearchingParty,
  SearchingPlayer,
  TicketNeed,
} from "./rules.ts";

/** A ticket with all that the rules look at worked out once. */
export interface Entrant {
  readonly party: SearchingParty;
  /** Only tickets with the same key can meet: the values of all needs that ask for equal ones. */
  readonly key: string;
  /** Its number for each closeness. */
  readonly numbers: readonly number[];
  /** Worst latency of its players by region, in the order of the rules; infinite where one has not measured. */
  readonly latencies: readonly number[];
  /** Its list for each need that lists overlap. */
  readonly lists: readonly (readonly string[])[];
  readonly listSets: readonly ReadonlySet<string>[];
  readonly players: readonly EntrantPlayer[];
  /** What it has of each preference of the rules. */
  readonly preferred: readonly Preferred[];
  /** How much longer than it did it counts as having waited, against others, in milliseconds. */
  readonly headStartMs: number;
  /** What it asks of others, made ready to be held against many of them. */
  readonly wants: readonly Want[];
}

/** A need of a ticket about others; `isMet` gets the values that another ticket has of the attribute. */
interface Want {
  readonly attribute: string;
  readonly isMet: (values: readonly AttributeValue[]) => boolean;
}

export interface EntrantPlayer {
  readonly id: string;
  readonly numbers: readonly number[];
  readonly roles: readonly string[];
}

export type EntrantResult = { readonly entrant: Entrant } | { readonly refused: Problem };

class Refusal extends Error {
  readonly problem: Problem;
  constructor(code: ProblemCode, detail: string) {
    super(detail);
    this.problem = problem(code, detail);
  }
}

const told = (value: unknown) => JSON.stringify(value);

/**
 * Works out what the rules look at, or says why this ticket can have no part in the queue: `party-too-large`,
 * `attribute-missing`, `attribute-invalid`, `region-unknown`, or `search-hopeless` when no other ticket could ever fit.
 */
export function entrantOf(rules: MatchRules, party: SearchingParty): EntrantResult {
  try {
    return { entrant: buildEntrant(rules, party) };
  } catch (error) {
    if (error instanceof Refusal) return { refused: error.problem };
    throw error;
  }
}

function buildEntrant(rules: MatchRules, party: SearchingParty): Entrant {
  checkPlayers(rules, party);
  checkOwnNeeds(rules, party);
  const key = JSON.stringify(
    rules.needs.flatMap((need) => ("must" in need && need.must === "equal" ? [sameOf(party, need.attribute)] : [])),
  );
  for (const need of rules.needs) checkNeed(party, need);
  const lists = rules.needs.flatMap((need) =>
    "must" in need && need.must === "overlap" ? [sharedList(party, need.attribute)] : [],
  );
  const players = party.players.map((player) => entrantPlayer(rules, party, player));
  const numbers = rules.closeness.map((closeness, n) =>
    partyNumber(
      closeness.party,
      players.map((player) => player.numbers[n] ?? 0),
    ),
  );
  const listSets = lists.map((list) => new Set(list));
  const wants = (party.needs ?? []).map((need) => wantOf(need, party));
  const latencies = latenciesOf(rules, party);
  const preferred = preferredOf(rules, party);
  const headStartMs = headStartOf(rules, party);
  return { party, key, numbers, latencies, lists, listSets, players, wants, preferred, headStartMs };
}

/** Of a party it is that of the player with the least. */
function headStartOf({ priority }: MatchRules, party: SearchingParty): number {
  if (priority === null) return 0;
  const values = valuesOf(party, priority.attribute) ?? [];
  const starts = values.map((value) => priority.headStartMs[String(value)] ?? 0);
  return starts.length === 0 ? 0 : Math.min(...starts);
}

function checkPlayers({ party: { max, together }, sides }: MatchRules, { players }: SearchingParty): void {
  const size = players.length;
  const room = together ? sides.max : sides.max * sides.count;
  const largest = Math.min(max, room);
  if (size === 0) throw new Refusal("attribute-missing", "The ticket names no player; expected at least one.");
  if (size > largest) {
    const why = largest < max ? `a side has ${room} places` : `the queue takes parties of up to ${max}`;
    throw new Refusal("party-too-large", `The party has ${size} players and ${why}; search in smaller parties.`);
  }
  if (new Set(players.map(({ id }) => id)).size < size) {
    throw new Refusal("player-twice", "A player is named twice in one ticket; name each once.");
  }
}

/** Values of an attribute that a ticket has: the party's own, or one of each player. Undefined when somebody has none. */
function valuesOf({ attributes, players }: SearchingParty, attribute: string): readonly AttributeValue[] | undefined {
  const own = attributes?.[attribute];
  if (own !== undefined) return [own];
  const values = players.map((player) => player.attributes?.[attribute]);
  return values.every((value) => value !== undefined) ? values : undefined;
}

function needed(party: SearchingParty, attribute: string): readonly AttributeValue[] {
  const values = valuesOf(party, attribute);
  if (values) return values;
  const without = party.players.find((player) => player.attributes?.[attribute] === undefined)?.id;
  throw new Refusal(
    "attribute-missing",
    `The queue looks at ${attribute}, which neither the party nor its player ${without} has; give it.`,
  );
}

function sameOf(party: SearchingParty, attribute: string): AttributeValue {
  const [first, ...others] = needed(party, attribute);
  if (first === undefined) throw new Refusal("attribute-missing", `The queue looks at ${attribute}; give it.`);
  const other = others.find((value) => told(value) !== told(first));
  if (other !== undefined) {
    const detail = `The players of one party have different values of ${attribute}, ${told(first)} and ${told(other)}; a match needs the same.`;
    throw new Refusal("search-hopeless", detail);
  }
  return first;
}

function checkNeed(party: SearchingParty, need: QueueNeed): void {
  if ("must" in need) return;
  for (const value of needed(party, need.attribute)) {
    if ("oneOf" in need) {
      if (isOneOf(value, need.oneOf)) continue;
      const accepted = need.oneOf.map(told).join(", ");
      throw new Refusal(
        "search-hopeless",
        `${need.attribute} is ${told(value)}; the queue takes ${accepted} only, so no match could ever be made.`,
      );
    }
    const number = numberIn(value, need.attribute);
    if (isWithin(number, need)) continue;
    throw new Refusal(
      "search-hopeless",
      `${need.attribute} is ${number}; the queue takes ${rangeText(need)} only, so no match could ever be made.`,
    );
  }
}

function sharedList(party: SearchingParty, attribute: string): readonly string[] {
  const lists = needed(party, attribute).map((value) => {
    if (typeof value === "string") return [value];
    if (Array.isArray(value) && value.length > 0) return value as readonly string[];
    throw new Refusal("attribute-invalid", `${attribute} is ${told(value)}; expected a list of texts.`);
  });
  const [first = [], ...others] = lists;
  const shared = first.filter((entry) => others.every((list) => list.includes(entry)));
  if (shared.length > 0) return [...new Set(shared)];
  throw new Refusal(
    "search-hopeless",
    `The players of the party share no entry of ${attribute}; a match needs one that all have.`,
  );
}

function entrantPlayer(rules: MatchRules, party: SearchingParty, player: SearchingPlayer): EntrantPlayer {
  const alone: SearchingParty = { ...party, players: [player] };
  return {
    id: player.id,
    numbers: rules.closeness.map(({ attribute }) => numberIn(needed(alone, attribute)[0], attribute)),
    roles: rules.lineUp ? rolesOf(rules.lineUp, needed(alone, rules.lineUp.attribute)[0]) : [],
  };
}

function rolesOf({ attribute, perSide }: NonNullable<MatchRules["lineUp"]>, value: unknown): readonly string[] {
  const roles = Array.isArray(value) ? value : [value];
  const known = perSide.map(({ role }) => role);
  const unknown = roles.find((role) => !known.includes(role));
  if (unknown === undefined && roles.length > 0) return roles;
  const detail = `${attribute} is ${told(value)}; expected one or more of ${known.join(", ")}.`;
  throw new Refusal("attribute-invalid", detail);
}

function numberIn(value: AttributeValue | undefined, attribute: string): number {
  if (typeof value === "number" && Number.isFinite(value)) return value;
  throw new Refusal("attribute-invalid", `${attribute} is ${told(value)}; expected a number.`);
}

function partyNumber(by: Closeness["party"], numbers: readonly number[]): number {
  switch (by) {
    case "mean":
      return numbers.reduce((sum, number) => sum + number, 0) / numbers.length;
    case "highest":
      return Math.max(...numbers);
    default:
      return Math.min(...numbers);
  }
}

function latenciesOf({ latency }: MatchRules, { players }: SearchingParty): readonly number[] {
  if (!latency) return [];
  const { regions, ceilingMs } = latency;
  for (const { id, latencyMs = {} } of players) {
    for (const [region, ms] of Object.entries(latencyMs)) {
      if (!regions.includes(region)) {
        const detail = `Player ${id} names the region ${region}; the queue knows ${regions.join(", ")}.`;
        throw new Refusal("region-unknown", detail);
      }
      if (typeof ms !== "number" || !Number.isFinite(ms) || ms < 0) {
        const detail = `The latency of player ${id} to ${region} is ${told(ms)}; expected milliseconds from 0 up.`;
        throw new Refusal("attribute-invalid", detail);
      }
    }
  }
  const worst = regions.map((region) =>
    Math.max(...players.map(({ latencyMs }) => latencyMs?.[region] ?? Number.POSITIVE_INFINITY)),
  );
  const best = Math.min(...worst);
  if (best <= endOf(ceilingMs)) return worst;
  const detail = Number.isFinite(best)
    ? `The lowest latency that all players of the party have to one region is ${best} ms; the queue allows at most ${endOf(ceilingMs)} ms.`
    : `There is no region that all players of the party have measured; measure one of ${regions.join(", ")}.`;
  throw new Refusal("search-hopeless", detail);
}

/** A ticket's own needs that nobody in this queue could fulfil. */
function checkOwnNeeds(rules: MatchRules, party: SearchingParty): void {
  for (const need of party.needs ?? []) {
    const { attribute } = need;
    if ("must" in need) {
      sameOf(party, attribute);
      continue;
    }
    if ("oneOf" in need ? need.oneOf.length === 0 : (need.from ?? -Infinity) > (need.to ?? Infinity)) {
      throw new Refusal("search-hopeless", `The need about ${attribute} leaves no value that would do; widen it.`);
    }
    const clash = rules.needs.find((asked) => asked.attribute === attribute && clashes(asked, need, party));
    if (clash) {
      const detail = `The need about ${attribute} rules out every ticket that the queue takes; drop or widen it.`;
      throw new Refusal("search-hopeless", detail);
    }
  }
}

function clashes(asked: QueueNeed, own: TicketNeed, party: SearchingParty): boolean {
  if ("must" in asked) return asked.must === "equal" && !meets(own, sameOf(party, asked.attribute));
  if ("oneOf" in asked) return !asked.oneOf.some((value) => meets(own, value));
  const { from = -Infinity, to = Infinity } = asked;
  if ("oneOf" in own) return !own.oneOf.some((value) => typeof value === "number" && isWithin(value, asked));
  return "must" in own ? false : (own.from ?? -Infinity) > to || from > (own.to ?? Infinity);
}

/** Whether what two tickets ask of others holds between them. */
export const wantEachOther = (one: Entrant, other: Entrant): boolean => hasAll(other, one) && hasAll(one, other);

/** Whether a ticket has what another one wants: all of its players do. */
function hasAll({ party }: Entrant, { wants }: Entrant): boolean {
  for (const { attribute, isMet } of wants) {
    const values = valuesOf(party, attribute);
    if (values === undefined || !isMet(values)) return false;
  }
  return true;
}

function wantOf(need: TicketNeed, own: SearchingParty): Want {
  const meets = meeting(need, "must" in need ? valuesOf(own, need.attribute)?.[0] : undefined);
  return { attribute: need.attribute, isMet: (values) => values.every(meets) };
}

/** What a single value is held against. */
function meeting(need: TicketNeed, own: AttributeValue | undefined): (value: AttributeValue) => boolean {
  if ("must" in need) {
    if (own === undefined) return () => true;
    const wanted = told(own);
    return (value) => (typeof value === "object" ? told(value) === wanted : value === own);
  }
  if ("oneOf" in need) {
    const accepted = new Set<unknown>(need.oneOf);
    return (value) => (Array.isArray(value) ? value.some((entry) => accepted.has(entry)) : accepted.has(value));
  }
  return (value) => typeof value === "number" && isWithin(value, need);
}

const meets = (need: TicketNeed, value: AttributeValue) => meeting(need, undefined)(value);

const isOneOf = (value: AttributeValue, accepted: readonly SettingValue[]) =>
  Array.isArray(value) ? value.some((entry) => accepted.includes(entry)) : accepted.includes(value as SettingValue);

const isWithin = (value: number, { from = -Infinity, to = Infinity }: { from?: number; to?: number }) =>
  value >= from && value <= to;

function rangeText({ from, to }: { from?: number; to?: number }): string {
  if (from === undefined) return `numbers up to ${to}`;
  return to === undefined ? `numbers from ${from}` : `numbers from ${from} to ${to}`;
}
