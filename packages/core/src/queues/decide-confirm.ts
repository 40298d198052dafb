import type { PlayerArgs, PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type QueuesContext, refuse } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { MadeMatch } from "../model/queues/state.ts";
import type { Done } from "../model/replies.ts";
import type { QueuesPart } from "../model/state.ts";
import { endedEvent, listed, nameIn, pauseKey, ticketOf } from "./parts.ts";

/** A player accepts the match that it is asked about, or declines it. */
export function confirm(context: QueuesContext, player: PlayerId, args: PlayerArgs<"queue.confirm">): Decision<Done> {
  const { state } = context;
  const match = askedMatch(state, player);
  if (match?.id !== args.match) {
    return refuse("match-gone", `You have no match ${args.match} to confirm; it may have failed.`);
  }
  const reply = () => ({});
  if (!args.accept) return accept(letGo(context, match, [player], "declined"), { reply });
  if (match.asking?.accepted.includes(player)) return accept([], { reply });
  const accepted: QueueEvent = { kind: "queue.accepted", queue: match.queue, match: match.id, player };
  return accept([accepted, ...completion(state, match, player)], { reply });
}

/** The match a player is asked about. */
const askedMatch = (state: QueuesPart, player: PlayerId): MadeMatch | undefined =>
  state.queues.matches.get(ticketOf(state, player)?.asked ?? "");

/** What follows when everybody has accepted and is here: the match stands. `last` accepts with this very decision. */
export function completion(state: QueuesPart, match: MadeMatch, last?: PlayerId): QueueEvent[] {
  return isComplete(state, match, last) ? [{ kind: "queue.confirmed", queue: match.queue, match: match.id }] : [];
}

function isComplete({ seen }: QueuesPart, { tickets, asking }: MadeMatch, last: PlayerId | undefined): boolean {
  if (asking === undefined) return false;
  const all = tickets.flatMap((ticket) => ticket.players);
  return all.every(
    ({ id }) => (id === last || asking.accepted.includes(id)) && seen.rooms.player(id)?.presence === "here",
  );
}

/** Who has not answered in time has let the match go; who has accepted and lost the connection meanwhile has not. */
export function confirmLate(context: QueuesContext, id: string): Decision {
  const match = context.state.queues.matches.get(id);
  if (match?.asking === undefined) return nothingToDo;
  const { accepted } = match.asking;
  const all = match.tickets.flatMap((ticket) => ticket.players);
  const silent = all.filter((player) => !accepted.includes(player.id)).map((player) => player.id);
  return accept(letGo(context, match, silent, "not-confirmed"));
}

const SAYS = {
  declined: "declined the match",
  "not-confirmed": "did not answer in time",
  cancelled: "has called the search off",
  "player-left": "has left",
  "went-elsewhere": "went into a room",
} as const;

/**
 * A match whose players are asked comes to nothing: the parties of those who let it go stop searching, and they may not
 * search again for a while; the others search on with the wait they had.
 */
export function letGo(
  { state, rules, at }: QueuesContext,
  match: MadeMatch,
  leavers: readonly PlayerId[],
  cause: keyof typeof SAYS,
): QueueEvent[] {
  const { queue, id, tickets } = match;
  const names = leavers.map((player) => tickets.flatMap((one) => one.players).find((one) => one.id === player)?.name);
  const why = leavers.length === 0 ? "Not all were here in time." : `${listed(names.map(String))} ${SAYS[cause]}.`;
  const ended = tickets.flatMap((ticket) => {
    const own = ticket.players.filter((player) => leavers.includes(player.id)).map(({ name }) => name);
    return own.length === 0 ? [] : [endedEvent(ticket, cause, `${listed(own)} ${SAYS[cause]}.`)];
  });
  const confirm = rules.queues.get(queue)?.confirm;
  const paused = leavers.flatMap((player): QueueEvent[] => {
    const ticket = ticketOf(state, player);
    if (!confirm || !ticket || cause === "player-left") return [];
    const before = state.queues.pauses.get(pauseKey(state, player));
    const times = before && at <= before.untilMs + confirm.forgetMs ? before.times + 1 : 1;
    const pauseMs = confirm.pausesMs[Math.min(times, confirm.pausesMs.length) - 1] ?? 0;
    const name = nameIn(ticket, player);
    return [{ kind: "queue.search-paused", queue, player, name, times, untilMs: at + pauseMs }];
  });
  const over = new Set(ended.map((event) => ("ticket" in event ? event.ticket : "")));
  const searching = tickets.map((ticket) => ticket.id).filter((ticket) => !over.has(ticket));
  return [{ kind: "queue.undone", queue, match: id, why, searching }, ...ended, ...paused];
}
