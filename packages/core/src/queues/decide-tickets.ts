import type { PlayerArgs, PlayerId, PlayerReply } from "@yellow-harbor/protocol";
import type { MatchAttributes } from "../matching/index.ts";
import { accept, type Decision, nothingToDo, type QueuesContext, type Refusal, refuse } from "../model/decision.ts";
import type { Brought, PartyMember } from "../model/parties/state.ts";
import { attributesOf } from "../model/players/attributes.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { type MadeMatch, queuesOf, type Ticket, type TicketPlayer } from "../model/queues/state.ts";
import type { Done } from "../model/replies.ts";
import type { PartySeen } from "../model/seen.ts";
import { newId } from "../model/stamp.ts";
import type { QueuesPart } from "../model/state.ts";
import { completion, letGo } from "./decide-confirm.ts";
import { endedEvent, nameIn, pauseKey, searchEnd, ticketOf, ticketReply } from "./parts.ts";
import { queuesStill, ratingsIn, refusedBy, type Searched, searchedQueues, vouchedIn } from "./searched.ts";
import { ticketView } from "./view.ts";

/** How long the members of a party may take to agree. */
const AGREE_MS = 30_000;

export function join(
  context: QueuesContext,
  leader: PlayerId,
  args: PlayerArgs<"queue.join">,
): Decision<PlayerReply<"queue.join">> {
  const { rules, at, random } = context;
  const asked = searchedQueues(context, [args.queue, ...(args.also ?? [])]);
  if ("refused" in asked) return asked;
  const { queues } = asked;
  const [first, ...others] = queues;
  const party = searchingParty(context, leader, args);
  if (party !== undefined && "refused" in party) return party;
  const players = searchingPlayers(context, leader, { args, party, queues });
  if ("refused" in players) return players;
  const small = queues.find((queue) => players.length > queue.rules.match.party.max);
  if (small) {
    const { max } = small.rules.match.party;
    return refuse("party-too-large", `Queue ${small.id} takes parties of up to ${max}; yours has ${players.length}.`);
  }
  const isAgreed = players.every(({ agreed }) => agreed);
  const names = queues.map(({ id }) => id);
  const ticket: Ticket = {
    id: newId("t", random),
    queue: first.id,
    ...(others.length > 0 && { also: others.map(({ id }) => id) }),
    lobby: first.rules.lobby,
    leader,
    ...(party && players.length > 1 && { party: party.id }),
    players,
    needs: args.needs ?? [],
    sinceMs: isAgreed ? at : null,
    untilMs: isAgreed ? searchEnd(rules, names, at) : at + AGREE_MS,
    held: players.some(({ id }) => context.state.seen.rooms.player(id)?.presence !== "here"),
  };
  const refused = isAgreed ? refusedBy(queues, ticket) : undefined;
  if (refused) return { refused };
  const opened: QueueEvent = { kind: "queue.ticket-opened", queue: first.id, ticket };
  return accept([...turnedDown(context, leader), opened], { reply: ticketReply(ticket) });
}

interface Together {
  readonly args: PlayerArgs<"queue.join">;
  readonly party: SearchingParty | undefined;
  readonly queues: readonly [Searched, ...Searched[]];
}

/** Whoever is to search together, each with what it brings, or why one of them cannot. */
function searchingPlayers(
  context: QueuesContext,
  leader: PlayerId,
  { args, party, queues }: Together,
): readonly TicketPlayer[] | Refusal {
  const ids = [leader, ...(args.with ?? party?.followers.map(({ id }) => id) ?? [])];
  if (new Set(ids).size < ids.length) {
    return refuse("player-twice", "A player is named twice in the party; name each once, and not yourself.");
  }
  const players: TicketPlayer[] = [];
  for (const id of ids) {
    const player = playerFor(context, id, leader, queues[0].rules.lobby);
    if ("refused" in player) return player;
    const isLeader = id === leader;
    // Whoever follows the leader of its party has agreed by that, and has said before what it brings.
    const brings: Bringing | undefined = isLeader
      ? {
          attributes: args.attributes ?? party?.leads?.attributes,
          latencyMs: args.latencyMs ?? party?.leads?.latencyMs,
        }
      : party?.followers.find((one) => one.id === id)?.brings;
    const own = brings ? ownOf(context, id, queues, brings) : { attributes: {}, latencyMs: {} };
    players.push({ id, name: player.name, agreed: brings !== undefined, ...own });
  }
  return players;
}

interface SearchingParty extends PartySeen {
  readonly leads: Brought | undefined;
  readonly followers: readonly PartyMember[];
}

type Bringing = { readonly [K in keyof Brought]?: Brought[K] | undefined };

/** The party that a leader searches with; refused where a player goes along with another leader. */
function searchingParty(
  { state }: QueuesContext,
  id: PlayerId,
  args: Pick<PlayerArgs<"queue.join">, "with" | "alone">,
): SearchingParty | Refusal | undefined {
  const party = args.with === undefined && !args.alone ? state.seen.rooms.partyOf(id) : undefined;
  if (party === undefined) return undefined;
  const members = [...party.members.values()];
  const own = party.members.get(id);
  if (party.leader !== id) {
    if (!own?.follows) return undefined;
    const leader = party.members.get(party.leader)?.name ?? party.leader;
    return refuse(
      "not-party-leader",
      `${leader} leads your party and searches for it; stay behind with party.set, or ask with alone: true.`,
    );
  }
  return { ...party, leads: own?.brings, followers: members.filter((one) => one.id !== id && one.follows) };
}

/** A player who was only asked to search with others. */
function isOnlyAsked({ state }: QueuesContext, id: PlayerId): boolean {
  return ticketOf(state, id)?.players.some((one) => one.id === id && !one.agreed) === true;
}

/** Whoever searches by itself has turned down the invitation that it has not answered: that keeps nobody from searching. */
function turnedDown(context: QueuesContext, player: PlayerId): QueueEvent[] {
  const invited = isOnlyAsked(context, player) ? ticketOf(context.state, player) : undefined;
  if (invited === undefined) return [];
  return [endedEvent(invited, "not-agreed", `${nameIn(invited, player)} searches without you.`)];
}

/** A player who may come into a ticket, or why not. */
function playerFor(
  context: QueuesContext,
  id: PlayerId,
  leader: PlayerId,
  lobby: string,
): { readonly name: string } | Refusal {
  const { state, at } = context;
  const player = state.seen.rooms.player(id);
  const who = id === leader ? "You are" : `${player?.name ?? id} is`;
  if (player === undefined)
    return refuse("player-unknown", `There is no player ${id}; it has left, or never was here.`);
  if (state.queues.byPlayer.has(id) && !(id === leader && isOnlyAsked(context, id))) {
    return refuse("already-searching", `${who} searching already; cancel that with queue.cancel first.`);
  }
  const paused = pausedText(state, pauseKey(state, id), at);
  if (paused) return refuse("search-too-soon", `${id === leader ? "You" : player.name} ${paused}`);
  if (player.room !== null) return refuse("already-in-room", `${who} in a room; leave it before searching.`);
  if (player.lobby !== lobby) {
    return refuse("queue-elsewhere", `${who} in lobby ${player.lobby}, and the queue is one of lobby ${lobby}.`);
  }
  return player;
}

/** Why, and for how long still, a player may not search; undefined when it may. */
function pausedText({ queues }: QueuesPart, key: string, at: number): string | undefined {
  const [pause, left] = [queues.pauses.get(key), queues.leavers.get(key)];
  const isLeaver = left !== undefined && left.untilMs >= (pause?.untilMs ?? 0);
  const longest = isLeaver ? left : pause;
  if (longest === undefined || at >= longest.untilMs) return undefined;
  const { times, untilMs } = longest;
  const many = times === 1 ? "a match" : `${times} matches`;
  const what = isLeaver ? `left ${many} before the end` : `let ${many}${times === 1 ? "" : " in a row"} go`;
  return `${what} and may search again in ${Math.ceil((untilMs - at) / 1_000)} s.`;
}

/** What a player brings. Its build is what it said hello with, and what is vouched for comes from its account alone. */
function ownOf(
  { state, rules }: QueuesContext,
  id: PlayerId,
  queues: readonly Searched[],
  { attributes = {}, latencyMs = {} }: Bringing,
): { attributes: MatchAttributes; latencyMs: Readonly<Record<string, number>> } {
  const player = state.seen.rooms.player(id);
  const { build = "", identity } = player ?? {};
  const declared = player ? attributesOf(rules.players.attributes, player) : {};
  const own: Record<string, MatchAttributes[string]> = { ...declared, ...attributes, build };
  for (const attribute of vouchedIn(queues)) {
    const vouched = identity?.vouched[attribute];
    if (vouched === undefined) delete own[attribute];
    else own[attribute] = vouched;
  }
  return { attributes: { ...own, ...ratingsIn(state, queues, identity?.account) }, latencyMs };
}

export function agree(
  context: QueuesContext,
  player: PlayerId,
  args: PlayerArgs<"queue.agree">,
): Decision<PlayerReply<"queue.agree">> {
  const { state, rules, at } = context;
  const ticket = state.queues.tickets.get(args.ticket);
  if (ticket === undefined || state.queues.byPlayer.get(player) !== ticket.id) {
    return refuse("ticket-unknown", `You are not asked to search with ${args.ticket}; it may have been called off.`);
  }
  const reply = ticketReply(ticket);
  if (ticket.players.some((one) => one.id === player && one.agreed)) return accept([], { reply });
  const queues = queuesStill(rules, ticket);
  const own = ownOf(context, player, queues, args);
  const players = ticket.players.map((one) => (one.id === player ? { ...one, ...own, agreed: true } : one));
  const agreed = { kind: "queue.agreed", queue: ticket.queue, ticket: ticket.id, player, ...own } as const;
  if (queues.length === 0 || players.some((one) => !one.agreed)) return accept([agreed], { reply });
  const refused = refusedBy(queues, { ...ticket, players, sinceMs: at });
  if (refused) {
    const detail = `The party cannot search in ${ticket.queue}: ${refused.detail}`;
    return accept([endedEvent(ticket, "refused", detail)], { reply: () => ({ ticket: ticketView(state, ticket) }) });
  }
  return accept([{ ...agreed, search: { sinceMs: at, untilMs: searchEnd(rules, queuesOf(ticket), at) } }], {
    reply,
  });
}

/** The match that the players of a ticket are asked about. */
const askedAbout = ({ queues }: QueuesPart, { asked }: Ticket): MadeMatch | undefined =>
  queues.matches.get(asked ?? "");

export function cancel(context: QueuesContext, player: PlayerId): Decision<Done> {
  const { state } = context;
  const ticket = ticketOf(state, player);
  if (ticket === undefined) return refuse("not-searching", "You are not searching; there is nothing to cancel.");
  const reply = () => ({});
  const match = askedAbout(state, ticket);
  if (match) return accept(letGo(context, match, [player], "cancelled"), { reply });
  return accept([endedEvent(ticket, "cancelled", `${nameIn(ticket, player)} has called the search off.`)], { reply });
}

export function expire({ state }: QueuesContext, id: string): Decision {
  const ticket = state.queues.tickets.get(id);
  if (ticket === undefined || ticket.asked !== undefined) return nothingToDo;
  if (ticket.sinceMs === null) {
    const missing = ticket.players.filter(({ agreed }) => !agreed).map(({ name }) => name);
    return accept([endedEvent(ticket, "not-agreed", `${missing.join(" and ")} did not agree in time.`)]);
  }
  const waitedS = Math.round(((ticket.untilMs ?? 0) - ticket.sinceMs) / 1_000);
  return accept([
    endedEvent(ticket, "nobody-found", `Nobody who fits was found in ${waitedS} s; search again, or wider.`),
  ]);
}

export function checkPresence({ state }: QueuesContext, player: PlayerId): Decision {
  const ticket = ticketOf(state, player);
  if (ticket === undefined) return nothingToDo;
  const held = ticket.players.some(({ id }) => state.seen.rooms.player(id)?.presence !== "here");
  if (held === ticket.held) return nothingToDo;
  const changed: QueueEvent = { kind: "queue.held-changed", queue: ticket.queue, ticket: ticket.id, held };
  const match = askedAbout(state, ticket);
  // Whoever accepted and lost the connection is back: nobody else may be missing. Coming back is no answer by itself.
  return accept([changed, ...(match && !held ? completion(state, match) : [])]);
}

/** Who is out of its party searches with it no more, and the party has to begin anew. A match that was found stands. */
export function leaveParty(
  { state }: QueuesContext,
  { player, party, cause }: Extract<QueueCommand, { do: "queue.leave-party" }>,
): Decision {
  const ticket = ticketOf(state, player);
  if (ticket === undefined || ticket.party !== party || ticket.asked !== undefined) return nothingToDo;
  const how = cause === "kicked" ? "was removed from" : "has left";
  return accept([endedEvent(ticket, "cancelled", `${nameIn(ticket, player)} ${how} the party.`)]);
}

export function dropPlayer(
  context: QueuesContext,
  player: PlayerId,
  cause: "player-left" | "went-elsewhere",
): Decision {
  const { state } = context;
  const ticket = ticketOf(state, player);
  if (ticket === undefined) return nothingToDo;
  const match = askedAbout(state, ticket);
  if (match) return accept(letGo(context, match, [player], cause));
  const name = nameIn(ticket, player);
  const detail = cause === "player-left" ? `${name} has left.` : `${name} went into a room.`;
  return accept([endedEvent(ticket, cause, detail)]);
}
