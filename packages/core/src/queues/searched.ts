import { type ConfigName, type Problem, problem } from "@yellow-harbor/protocol";
import { entrantOf } from "../matching/index.ts";
import { type QueuesContext, type Refusal, refuse } from "../model/decision.ts";
import { partyOf } from "../model/indexes/waiting-index.ts";
import type { QueueRules } from "../model/queues/rules.ts";
import { queuesOf, type Ticket } from "../model/queues/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { QueuesPart } from "../model/state.ts";
import { unknownQueue } from "./parts.ts";

/** A queue that a ticket searches in. */
export interface Searched {
  readonly id: ConfigName;
  readonly rules: QueueRules;
}

/** The queues that a search asks for, each once, the first one first; or why nobody may search in them, or not in them together. */
export function searchedQueues(
  context: QueuesContext,
  names: readonly ConfigName[],
): { readonly queues: readonly [Searched, ...Searched[]] } | Refusal {
  const { state, rules } = context;
  const queues: Searched[] = [];
  for (const id of new Set(names)) {
    const queue = rules.queues.get(id);
    if (queue === undefined) return unknownQueue(context, id);
    const mode = state.queues.byName.get(id)?.mode ?? "open";
    if (mode !== "open") {
      return refuse("queue-closed", `Queue ${id} is ${mode} by its operators and takes nobody in; try again later.`);
    }
    queues.push({ id, rules: queue });
  }
  const [first, ...others] = queues as [Searched, ...Searched[]];
  const elsewhere = others.find((one) => one.rules.lobby !== first.rules.lobby);
  if (elsewhere) {
    const [one, other] = [first, elsewhere].map((queue) => `${queue.id} is of lobby ${queue.rules.lobby}`);
    return refuse("queue-elsewhere", `Queue ${one} and ${other}; search in queues of one lobby at a time.`);
  }
  return { queues: [first, ...others] };
}

/** Of those that a ticket searches in the ones that are there still. */
export const queuesStill = ({ queues }: HarborRules, ticket: Ticket): Searched[] =>
  queuesOf(ticket).flatMap((id) => {
    const rules = queues.get(id);
    return rules ? [{ id, rules }] : [];
  });

/** Attributes that count only when they are vouched for in one of the queues. */
export const vouchedIn = (queues: readonly Searched[]): readonly string[] =>
  queues.flatMap(({ rules }) => rules.vouched);

/** What an account is rated at, by attribute: of several queues that rate the same one the first counts. */
export function ratingsIn({ ratings }: QueuesPart, queues: readonly Searched[], account: string | undefined) {
  const found = queues.toReversed().flatMap(({ id, rules: { rating } }): [string, number][] => {
    if (rating === null) return [];
    const known = account === undefined ? undefined : ratings.byQueue.get(id)?.get(account)?.rating;
    return [[rating.attribute, known ?? rating.start]];
  });
  return Object.fromEntries(found);
}

/** Why a ticket can have no part in one of its queues; undefined when it can in all. */
export function refusedBy(queues: readonly Searched[], ticket: Ticket): Problem | undefined {
  const known = queues.flatMap(({ rules }) => rules.match.latency?.regions ?? []);
  const region = ticket.players.flatMap(({ latencyMs }) => Object.keys(latencyMs)).find((one) => !known.includes(one));
  if (queues.length > 1 && region !== undefined) {
    return problem("region-unknown", `The search names the region ${region}; its queues know ${known.join(", ")}.`);
  }
  for (const { id, rules } of queues) {
    const entered = entrantOf(rules.match, partyOf(ticket, rules.match));
    if ("entrant" in entered) continue;
    const refused = withNames(entered.refused, ticket);
    return queues.length === 1 ? refused : { ...refused, detail: `In queue ${id}: ${refused.detail}` };
  }
  return undefined;
}

/** Says of whom it speaks by name, and how a member of a party mends it. */
function withNames(refused: Problem, { players, leader, party }: Ticket): Problem {
  const whom = players.find(({ id }) => refused.detail.includes(id));
  if (whom === undefined) return refused;
  const detail = refused.detail.replaceAll(whom.id, whom.name);
  const isOther = party !== undefined && whom.id !== leader;
  return { ...refused, detail: isOther ? `${detail} ${whom.name} says with party.set what it brings.` : detail };
}
