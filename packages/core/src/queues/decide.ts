import type { PlayerArgs, PlayerId, TicketEnd } from "@yellow-harbor/protocol";
import { accept, assertNever, type Decision, type Moment, nothingToDo, refuse } from "../harbor/decision.ts";
import { newId } from "../harbor/stamp.ts";
import { enter as enterMatching, type Match, type MatchAttributes, qualityOf, sidesOf } from "../matching/index.ts";
import type { QueueCommand } from "./commands.ts";
import type { QueueEvent } from "./events.ts";
import type { Ticket, TicketPlayer } from "./state.ts";
import { ticketView } from "./view.ts";
import { partyOf, poolOf } from "./waiting-index.ts";

/** How long the members of a party may take to agree. */
const AGREE_MS = 30_000;

/** Steps of the matcher in one go: a few milliseconds at most, after which others have their turn. */
const PASS_STEPS = 4_000;

export function decideQueue(moment: Moment, command: QueueCommand): Decision {
  switch (command.do) {
    case "queue.enter":
      return enter(moment, command.player, command.args);
    case "queue.agree":
      return agree(moment, command.player, command.args);
    case "queue.cancel":
      return cancel(moment, command.player);
    case "queue.pass":
      return pass(moment, command.queue);
    case "queue.expire":
      return expire(moment, command.ticket);
    case "queue.check-presence":
      return checkPresence(moment, command.player);
    case "queue.drop-player":
      return dropPlayer(moment, command.player, command.cause);
    case "queue.settle":
      return settle(moment, command.room);
    case "queue.forgo":
      return forgo(moment, command.room, command.player);
    case "queue.put-back":
      return putBack(moment, command.match, command.why);
    case "queue.set-mode":
      return setMode(moment, command);
    default:
      return assertNever(command);
  }
}

function enter(moment: Moment, leader: PlayerId, args: PlayerArgs<"queue.enter">): Decision {
  const { state, rules, at, chance } = moment;
  const queue = rules.queues.get(args.queue);
  if (queue === undefined) return unknownQueue(moment, args.queue);
  const mode = state.queues.byName.get(args.queue)?.mode ?? "open";
  if (mode !== "open") {
    return refuse(
      "queue-closed",
      `Queue ${args.queue} is ${mode} by its operators and takes nobody in; try again later.`,
    );
  }
  const ids = [leader, ...(args.with ?? [])];
  if (new Set(ids).size < ids.length) {
    return refuse("player-twice", "A player is named twice in the party; name each once, and not yourself.");
  }
  const players: TicketPlayer[] = [];
  for (const id of ids) {
    const player = playerFor(moment, id, leader, queue.lobby);
    if ("refused" in player) return player;
    const isLeader = id === leader;
    const own = isLeader ? ownOf(moment, id, args) : { attributes: {}, latencyMs: {} };
    players.push({ id, name: player.name, agreed: isLeader, ...own });
  }
  const largest = queue.match.party.most;
  if (players.length > largest) {
    return refuse(
      "party-too-large",
      `Queue ${args.queue} takes parties of up to ${largest}; yours has ${players.length}.`,
    );
  }
  const isAlone = players.length === 1;
  const untilMs = isAlone ? endOf(queue.searchMs, at) : at + AGREE_MS;
  const ticket: Ticket = {
    ...{ id: newId("t", chance), queue: args.queue, lobby: queue.lobby, leader, players },
    ...{ needs: args.needs ?? [], sinceMs: isAlone ? at : null, untilMs, held: false },
  };
  const entered = isAlone ? enterMatching(queue.match, partyOf(ticket)) : undefined;
  if (entered && "refused" in entered) return { refused: entered.refused };
  return accept([{ kind: "queue.ticket-opened", queue: args.queue, ticket }], { reply: ticketReply(ticket.id) });
}

/** A player who may come into a ticket, or why not. */
function playerFor(
  { state }: Moment,
  id: PlayerId,
  leader: PlayerId,
  lobby: string,
): { readonly name: string } | Extract<Decision, { refused: unknown }> {
  const player = state.players.byId.get(id);
  const who = id === leader ? "You are" : `${player?.name ?? id} is`;
  const no = (...words: Parameters<typeof refuse>) => refuse(...words) as Extract<Decision, { refused: unknown }>;
  if (player === undefined) return no("player-unknown", `There is no player ${id}; it has left, or never was here.`);
  if (state.queues.byPlayer.has(id)) {
    return no("already-searching", `${who} searching already; cancel that with queue.cancel first.`);
  }
  if (player.room !== null) return no("already-in-room", `${who} in a room; leave it before searching.`);
  if (player.lobby !== lobby) {
    return no("queue-elsewhere", `${who} in lobby ${player.lobby}, and the queue is one of lobby ${lobby}.`);
  }
  return player;
}

/** What a player brings. Its build is what it said hello with, whatever else it says. */
function ownOf(
  { state }: Moment,
  id: PlayerId,
  { attributes = {}, latencyMs = {} }: Pick<PlayerArgs<"queue.agree">, "attributes" | "latencyMs">,
): { attributes: MatchAttributes; latencyMs: Readonly<Record<string, number>> } {
  const build = state.players.byId.get(id)?.build ?? "";
  return { attributes: { ...attributes, build }, latencyMs };
}

function agree(moment: Moment, player: PlayerId, args: PlayerArgs<"queue.agree">): Decision {
  const { state, rules, at } = moment;
  const ticket = state.queues.tickets.get(args.ticket);
  if (ticket === undefined || state.queues.byPlayer.get(player) !== ticket.id) {
    return refuse("ticket-unknown", `You are not asked to search with ${args.ticket}; it may have been called off.`);
  }
  const reply = ticketReply(ticket.id);
  if (ticket.players.some((one) => one.id === player && one.agreed)) return accept([], { reply });
  const own = ownOf(moment, player, args);
  const players = ticket.players.map((one) => (one.id === player ? { ...one, ...own, agreed: true } : one));
  const agreed = { kind: "queue.agreed", queue: ticket.queue, ticket: ticket.id, player, ...own } as const;
  const queue = rules.queues.get(ticket.queue);
  if (queue === undefined || players.some((one) => !one.agreed)) return accept([agreed], { reply });
  const entered = enterMatching(queue.match, partyOf({ ...ticket, players, sinceMs: at }));
  if ("refused" in entered) {
    const detail = `The party cannot search in ${ticket.queue}: ${entered.refused.detail}`;
    return accept([endedEvent(ticket, "refused", detail)], { reply: () => ({ ticket: ticketView(state, ticket) }) });
  }
  return accept([{ ...agreed, search: { sinceMs: at, untilMs: endOf(queue.searchMs, at) } }], { reply });
}

function cancel({ state }: Moment, player: PlayerId): Decision {
  const ticket = ticketOf(state, player);
  if (ticket === undefined) return refuse("not-searching", "You are not searching; there is nothing to cancel.");
  const name = ticket.players.find(({ id }) => id === player)?.name ?? player;
  return accept([endedEvent(ticket, "cancelled", `${name} has called the search off.`)], { reply: () => ({}) });
}

function expire({ state }: Moment, id: string): Decision {
  const ticket = state.queues.tickets.get(id);
  if (ticket === undefined) return nothingToDo;
  if (ticket.sinceMs === null) {
    const missing = ticket.players.filter(({ agreed }) => !agreed).map(({ name }) => name);
    return accept([endedEvent(ticket, "not-agreed", `${missing.join(" and ")} did not agree in time.`)]);
  }
  const waitedS = Math.round(((ticket.untilMs ?? 0) - ticket.sinceMs) / 1_000);
  return accept([
    endedEvent(ticket, "nobody-found", `Nobody who fits was found in ${waitedS} s; search again, or wider.`),
  ]);
}

function checkPresence({ state }: Moment, player: PlayerId): Decision {
  const ticket = ticketOf(state, player);
  if (ticket === undefined) return nothingToDo;
  const held = ticket.players.some(({ id }) => state.players.byId.get(id)?.presence !== "here");
  if (held === ticket.held) return nothingToDo;
  return accept([{ kind: "queue.held-changed", queue: ticket.queue, ticket: ticket.id, held }]);
}

function dropPlayer({ state }: Moment, player: PlayerId, cause: "player-left" | "went-elsewhere"): Decision {
  const ticket = ticketOf(state, player);
  if (ticket === undefined) return nothingToDo;
  const name = ticket.players.find(({ id }) => id === player)?.name ?? player;
  const detail = cause === "player-left" ? `${name} has left.` : `${name} went into a room.`;
  return accept([endedEvent(ticket, cause, detail)]);
}

/** One slice of a pass. When there is more to look at, or somebody still waits, the next is due without an event. */
function pass({ state, rules, at, chance }: Moment, id: string): Decision {
  const queue = state.queues.byName.get(id);
  const known = rules.queues.get(id);
  if (queue === undefined || queue.mode === "paused" || queue.tickets.size === 0) return nothingToDo;
  if (known === undefined) {
    const gone = [...queue.tickets].flatMap((ticket) => state.queues.tickets.get(ticket) ?? []);
    return accept(gone.map((ticket) => endedEvent(ticket, "refused", `Queue ${id} is not there any more.`)));
  }
  const { pool, refused } = poolOf(state.queues, queue, known.match);
  const { matches, hasMore } = pool.pass(at, { steps: PASS_STEPS });
  const events: QueueEvent[] = [
    ...refused.map(({ ticket, problem }) => endedEvent(ticket, "refused", `The rules have changed: ${problem.detail}`)),
    ...matches.map((match) => matchedEvent(id, known.match, match, at, newId("m", chance))),
  ];
  const left = pool.size > 0 || hasMore;
  // The next slice comes in a turn of its own, so that others are heard in between.
  const again = { kind: "queue-pass", subject: id, at: at + (hasMore ? 1 : known.passEveryMs) } as const;
  return { ...acceptAll(events), ...(left && { again }) };
}

const acceptAll = (events: readonly QueueEvent[]) => accept(events) as Extract<Decision, { events: unknown }>;

function matchedEvent(
  queue: string,
  rules: Parameters<typeof qualityOf>[0],
  match: Match,
  at: number,
  id: string,
): QueueEvent {
  const tickets = match.entrants.map(({ party }) => party.ticket);
  const quality = qualityOf(rules, match, at);
  return { kind: "queue.matched", queue, match: id, tickets, region: match.region, sides: sidesOf(match), quality };
}

function settle({ state }: Moment, room: string): Decision {
  const match = state.queues.matches.get(state.queues.byRoom.get(room) ?? "");
  if (match === undefined || !match.forming) return nothingToDo;
  return accept([{ kind: "queue.settled", queue: match.queue, match: match.id, room }]);
}

function forgo({ state }: Moment, room: string, player: PlayerId): Decision {
  const match = state.queues.matches.get(state.queues.byRoom.get(room) ?? "");
  if (match === undefined || !match.forming) return nothingToDo;
  return accept([{ kind: "queue.forgone", queue: match.queue, match: match.id, player }]);
}

/** Whoever of the match is still there, and free, searches on with the wait it had. */
function putBack({ state, rules, at }: Moment, id: string, why: string): Decision {
  const match = state.queues.matches.get(id);
  if (match === undefined || !match.forming) return nothingToDo;
  const { queue } = match;
  const events: QueueEvent[] = [{ kind: "queue.undone", queue, match: id, why }];
  for (const ticket of match.tickets) {
    const isWhole = ticket.players.every(({ id: player }) => {
      const known = state.players.byId.get(player);
      const isFree = known !== undefined && known.room === null && !match.gone.includes(player);
      return isFree && !state.queues.byPlayer.has(player);
    });
    if (!isWhole) continue;
    const held = ticket.players.some((one) => state.players.byId.get(one.id)?.presence !== "here");
    const untilMs = endOf(rules.queues.get(queue)?.searchMs ?? null, at);
    events.push({ kind: "queue.ticket-opened", queue, ticket: { ...ticket, held, untilMs }, again: why });
  }
  return accept(events);
}

function setMode(moment: Moment, { queue, mode }: Extract<QueueCommand, { do: "queue.set-mode" }>): Decision {
  if (!moment.rules.queues.has(queue)) return unknownQueue(moment, queue);
  const reply = () => ({});
  if ((moment.state.queues.byName.get(queue)?.mode ?? "open") === mode) return accept([], { reply });
  return accept([{ kind: "queue.mode-set", queue, mode }], { reply });
}

function unknownQueue({ rules }: Moment, queue: string): Decision {
  const accepted = [...rules.queues.keys()];
  const known = accepted.length === 0 ? "there is none" : `there are ${accepted.join(", ")}`;
  return refuse("queue-unknown", `There is no queue ${queue}; ${known}.`, { accepted });
}

const endOf = (searchMs: number | null, at: number) => (searchMs === null ? null : at + searchMs);

const ticketOf = ({ queues }: Moment["state"], player: PlayerId): Ticket | undefined =>
  queues.tickets.get(queues.byPlayer.get(player) ?? "");

const endedEvent = (ticket: Ticket, cause: TicketEnd, detail: string): QueueEvent => ({
  ...{ kind: "queue.ticket-ended", queue: ticket.queue, ticket: ticket.id },
  players: ticket.players.map(({ id }) => id),
  ...{ cause, detail },
});

const ticketReply = (id: string) => (state: Moment["state"]) => {
  const ticket = state.queues.tickets.get(id);
  return ticket === undefined ? {} : { ticket: ticketView(state, ticket) };
};
