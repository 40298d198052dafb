import type { Entrant, FoundMatch, Match } from "../matching/index.ts";
import { accept, type Decision, nothingToDo, type QueuesContext } from "../model/decision.ts";
import type { LookForMatches } from "../model/effect.ts";
import type { Proposed, QueueCommand } from "../model/queues/commands.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { isSearching } from "../model/queues/state.ts";
import { newId } from "../model/stamp.ts";
import { type Fleet, fleetOf } from "./fleet.ts";
import { matchedEvent } from "./matched-event.ts";

/** An answer takes a few milliseconds. Whoever does not give one for so long is told everything anew. */
const ANSWER_MS = 5_000;
/** Matches that are proposed at once: each opens a room and tells everybody in it. */
const AT_ONCE = 4;

interface Looking {
  readonly id: string;
  readonly before: readonly QueueEvent[];
  readonly isEmpty: boolean;
  readonly fleet: Fleet | undefined;
}

/** Has matches looked for apart. Until the answer comes nothing else is asked. */
export function lookApart({ state, at, random }: QueuesContext, { id, before, isEmpty, fleet }: Looking): Decision {
  const { waiting } = state.derived;
  waiting.endPass(id);
  if (isEmpty) return accept(before);
  const again = (untilMs: number) => ({ kind: "queue-pass", subject: id, at: untilMs }) as const;
  const awaitedUntil = waiting.awaitedUntil(id);
  if (awaitedUntil !== undefined && at < awaitedUntil) return { ...accept(before), again: again(awaitedUntil) };
  if (awaitedUntil !== undefined) waiting.forgetTold(id);
  const look = { id: newId("q", random), untilMs: at + ANSWER_MS };
  const max = Math.min(AT_ONCE, fleet?.left ?? AT_ONCE);
  const effect: LookForMatches = {
    effect: "look-for-matches",
    look: look.id,
    queue: id,
    ...waiting.tell(id, look),
    atMs: at,
    max,
    rooms: fleet?.byRegion,
  };
  return { ...accept(before, { effects: [effect] }), again: again(look.untilMs) };
}

/**
 * Makes matches of what was found apart. A ticket may have gone meanwhile, been matched elsewhere or be held, and an instance
 * be taken: what no longer fits is not made, and its tickets are looked at again.
 */
export function propose(
  context: QueuesContext,
  { queue: id, look, matches, hasMore }: Extract<QueueCommand, { do: "queue.propose" }>,
): Decision<Proposed> {
  const { state, rules, at, random } = context;
  const { waiting } = state.derived;
  const known = rules.queues.get(id);
  const none = { ...nothingToDo, reply: () => ({ made: 0, refused: matches.length }) };
  if (known === undefined) return none;
  if (!waiting.answered(id, look, known.match)) {
    // Asked by rules that hold no more: nothing else is waited for.
    const isFree = waiting.awaitedUntil(id) === undefined;
    return { ...none, ...(isFree && { again: { kind: "queue-pass", subject: id, at } }) };
  }
  const isPaused = state.queues.byName.get(id)?.mode === "paused";
  const places = placesOf(fleetOf(state, rules, known, at), known.match.latency?.regions ?? []);
  const taken = new Set<string>();
  const events: QueueEvent[] = [];
  for (const proposed of matches) {
    const match = isPaused ? undefined : standing(context, id, proposed, taken);
    if (match === undefined || !places.take(match.region)) {
      for (const ticket of proposed.tickets) waiting.note(id, ticket);
      continue;
    }
    for (const ticket of proposed.tickets) taken.add(ticket);
    events.push(matchedEvent(id, known, match, at, newId("m", random)));
  }
  const next = {
    kind: "queue-pass",
    subject: id,
    at: at + (hasMore || waiting.hasUntold(id) ? 1 : known.passEveryMs),
  } as const;
  const reply = () => ({ made: events.length, refused: matches.length - events.length });
  return { ...accept(events, { reply }), again: next };
}

/** The match, when all of its tickets still search as they did. */
function standing(
  { state }: QueuesContext,
  queue: string,
  { tickets, ...found }: FoundMatch,
  taken: ReadonlySet<string>,
): Match | undefined {
  const entrants = tickets.flatMap((id): Entrant[] => {
    const ticket = state.queues.tickets.get(id);
    const entrant = state.derived.waiting.entrant(queue, id);
    return entrant && ticket && isSearching(ticket) && !taken.has(id) ? [entrant] : [];
  });
  return entrants.length === tickets.length ? { ...found, entrants } : undefined;
}

/** Where matches can be played still, one less with each. */
function placesOf(fleet: Fleet | undefined, regions: readonly string[]) {
  let left = fleet?.left ?? Number.POSITIVE_INFINITY;
  const byRegion = fleet?.byRegion && [...fleet.byRegion];
  return {
    take(region: string | null): boolean {
      const at = regions.indexOf(region ?? "");
      const here = byRegion === undefined || at < 0 ? left : (byRegion[at] ?? 0);
      if (left <= 0 || here <= 0) return false;
      left -= 1;
      if (byRegion !== undefined && at >= 0) byRegion[at] = here - 1;
      return true;
    },
  };
}

/** Whoever looked is gone: the next one is told everything. */
export function matcherLost({ state }: QueuesContext): Decision {
  state.derived.waiting.forgetTold();
  return nothingToDo;
}
