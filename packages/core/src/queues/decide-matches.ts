import type { AccountId, PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type QueuesContext } from "../model/decision.ts";
import type { Brought } from "../model/indexes/waiting-index.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { type MadeMatch, queuesOf, type Ticket } from "../model/queues/state.ts";
import { newId } from "../model/stamp.ts";
import type { QueuesPart } from "../model/state.ts";
import { fillRooms } from "./decide-backfill.ts";
import { lookApart } from "./decide-proposals.ts";
import { fleetOf } from "./fleet.ts";
import { matchedEvent } from "./matched-event.ts";
import { endedEvent, searchEnd } from "./parts.ts";

/**
 * One go of a pass, after which others have their turn. `work` is a few milliseconds of looking at tickets; each of the
 * matches opens a room and tells everybody in it; a pass of more newcomers is several, one after the other.
 */
export const PASS_SLICE = { work: 15_000, max: 8, newcomers: 4_000 } as const;
/** Tickets that are taken in in one go, as after a restart with many. */
const PASS_TICKETS = 150;
/** Then the index is brought up to date seldom: it takes a time in proportion to all of it. */
const SETTLE_AT = 0.2;

/** One slice of a pass. When there is more to look at, or somebody still waits, the next is due without an event. */
export function pass(context: QueuesContext, id: string): Decision {
  const { state, rules, at, random } = context;
  const queue = state.queues.byName.get(id);
  const known = rules.queues.get(id);
  if (queue === undefined || queue.mode === "paused" || queue.tickets.size === 0) return nothingToDo;
  if (known === undefined) {
    const gone = [...queue.tickets].flatMap((ticket) => state.queues.tickets.get(ticket) ?? []);
    return accept(gone.map((ticket) => outOf(id, ticket, `Queue ${id} is not there any more.`)));
  }
  const waiters = { queues: state.queues, queue, rules: known.match };
  const {
    pool,
    refused,
    hasMore: isBehind,
  } = state.derived.waiting.take(id, waiters, {
    max: PASS_TICKETS,
    isApart: rules.matcher === "apart",
  });
  if (isBehind) {
    if (rules.matcher === "here") pool.settle(at, SETTLE_AT);
    return {
      ...accept(refused.map((one) => refusedEvent(id, one))),
      again: { kind: "queue-pass", subject: id, at: at + 1 },
    };
  }
  const again = (ms: number) => ({ kind: "queue-pass", subject: id, at: at + ms }) as const;
  const fleet = fleetOf(state, rules, known, at);
  const isFull = fleet?.left === 0;
  if (isFull) pool.leavePass();
  // A playing room is short of players now; those who search only wait.
  const backfill = pool.isBetweenPasses
    ? fillRooms(context, id, { known, pool, ...PASS_SLICE })
    : { events: [], hasMore: false };
  const before = [...refused.map((one) => refusedEvent(id, one)), ...backfill.events];
  if (backfill.hasMore) return { ...accept(before), again: again(1) };
  if (isFull) {
    state.derived.waiting.endPass(id);
    return { ...accept(before), again: again(known.passEveryMs) };
  }
  if (rules.matcher === "apart") return lookApart(context, { id, before, isEmpty: pool.size === 0, fleet });
  const max = Math.min(PASS_SLICE.max, fleet?.left ?? PASS_SLICE.max);
  const { matches, hasMore } = pool.pass(at, { ...PASS_SLICE, max, rooms: fleet?.byRegion });
  const events: QueueEvent[] = [
    ...before,
    ...matches.map((match) => matchedEvent(id, known, match, at, newId("m", random))),
  ];
  if (pool.isBetweenPasses) state.derived.waiting.endPass(id);
  const left = pool.size > 0 || hasMore;
  // The next slice comes in a turn of its own, so that others are heard in between.
  return { ...accept(events), ...(left && { again: again(hasMore ? 1 : known.passEveryMs) }) };
}

const refusedEvent = (queue: string, { ticket, problem }: Brought["refused"][number]): QueueEvent =>
  outOf(queue, ticket, `The rules have changed: ${problem.detail}`);

/** A queue has no place for a ticket any more: it searches on in its other queues, or it ends. */
const outOf = (queue: string, ticket: Ticket, detail: string): QueueEvent =>
  queuesOf(ticket).length > 1
    ? { kind: "queue.ticket-narrowed", queue, ticket: ticket.id, detail }
    : endedEvent(ticket, "refused", detail);

export function settle({ state, rules }: QueuesContext, room: string): Decision {
  const match = state.queues.matches.get(state.queues.byRoom.get(room) ?? "");
  // The room may have closed in the same read: then the match came to nothing.
  if (match === undefined || !match.forming || !state.seen.rooms.room(room)) return nothingToDo;
  const { whenLeft = "play-on", leavers = null } = rules.queues.get(match.queue) ?? {};
  const watchesLeavers = whenLeft !== "play-on" || leavers !== null;
  const settled: QueueEvent = { kind: "queue.match-started", queue: match.queue, match: match.id, room };
  if (!watchesLeavers) return accept([settled]);
  return accept([
    { ...settled, watchesLeavers: true, ...(leavers !== null && { accounts: accountsOf(state, match) }) },
  ]);
}

const accountsOf = ({ seen }: QueuesPart, { tickets }: MadeMatch): Record<PlayerId, AccountId> =>
  Object.fromEntries(
    tickets
      .flatMap(({ players }) => players)
      .flatMap(({ id }) => {
        const account = seen.rooms.player(id)?.identity?.account;
        return account === undefined ? [] : [[id, account]];
      }),
  );

export function forfeit({ state }: QueuesContext, room: string, player: PlayerId): Decision {
  const match = state.queues.matches.get(state.queues.byRoom.get(room) ?? "");
  if (match === undefined || !match.forming) return nothingToDo;
  return accept([{ kind: "queue.forfeited", queue: match.queue, match: match.id, player }]);
}

/** Whoever of the match is still there, and free, searches on with the wait it had. */
export function putBack({ state, rules, at }: QueuesContext, id: string, why: string): Decision {
  const match = state.queues.matches.get(id);
  if (match === undefined || !match.forming) return nothingToDo;
  const { queue } = match;
  const events: QueueEvent[] = [{ kind: "queue.undone", queue, match: id, why }];
  for (const ticket of match.tickets) {
    const isWhole = ticket.players.every(({ id: player }) => {
      const known = state.seen.rooms.player(player);
      const isFree = known !== undefined && known.room === null && !match.gone.includes(player);
      return isFree && !state.queues.byPlayer.has(player);
    });
    if (!isWhole) continue;
    const held = ticket.players.some((one) => state.seen.rooms.player(one.id)?.presence !== "here");
    const untilMs = searchEnd(rules, queuesOf(ticket), at);
    events.push({ kind: "queue.ticket-opened", queue: ticket.queue, ticket: { ...ticket, held, untilMs }, again: why });
  }
  return accept(events);
}
