import { counted, type MatchExplanation, type MatchView, type TicketExplanation } from "@yellow-harbor/protocol";
import { funnelOf, type Offer, offerOf } from "../matching/index.ts";
import { type MadeMatch, queuesOf, type Ticket } from "../model/queues/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { QueuesPart } from "../model/state.ts";
import { estimateFor } from "./estimate.ts";
import { fleetOf, fullTexts } from "./fleet.ts";
import { listed } from "./parts.ts";
import { matchView, ticketView } from "./view.ts";

/** Why a ticket is still waiting; undefined when there is no such ticket. */
export function explainTicket(
  state: QueuesPart,
  rules: HarborRules,
  id: string,
  at: number,
): TicketExplanation | undefined {
  const ticket = state.queues.tickets.get(id);
  const [first, ...others] = (ticket ? queuesOf(ticket) : []).flatMap((name) => {
    const why = ticket && explainIn(state, rules, { ticket, name, at });
    return why ? [why] : [];
  });
  if (first === undefined || others.length === 0) return first;
  const both = `It searches in ${listed(queuesOf(ticket as Ticket))} at once: the first match of any is it.`;
  return {
    ...first,
    also: others.map(({ queue, funnel, text }) => ({ queue, funnel, text })),
    text: [both, ...first.text, ...others.flatMap(({ queue, text }) => [`In ${queue}:`, ...text])],
  };
}

/** The same in one of its queues. */
function explainIn(
  state: QueuesPart,
  rules: HarborRules,
  { ticket, name, at }: { readonly ticket: Ticket; readonly name: string; readonly at: number },
): TicketExplanation | undefined {
  const { id } = ticket;
  const queue = state.queues.byName.get(name);
  const known = rules.queues.get(name);
  if (!queue || !known) return undefined;
  const waitedS = ticket.sinceMs === null ? 0 : Math.round((at - ticket.sinceMs) / 100) / 10;
  const estimate = estimateFor(queue.waits, ticket.players.length);
  const entrants = state.derived.waiting.entrants(name, { queues: state.queues, queue, rules: known.match });
  const entrant = entrants.find(({ party }) => party.ticket === id);
  const base = { ticket: id, queue: name, waitedS, ...(estimate && { estimate }) };
  if (!entrant) return { ...base, funnel: [], tolerances: [], nearest: [], text: [notMatched(state, ticket)] };
  const others = entrants.filter((one) => one !== entrant);
  const fleet = fleetOf(state, rules, known, at);
  const now = { nowMs: at, rooms: fleet?.byRegion };
  const { steps, tolerances, nearest, missing, next } = funnelOf(known.match, entrant, others, now);
  const offer = offerView(offerOf(known.match, entrant, others, now));
  const before = entrants.indexOf(entrant);
  const nextText = next && `In ${next.inS} s, waiting alone brings ${counted(next.more, "more ticket")} into reach.`;
  const text = [
    `${names(ticket)} has waited ${waitedS} s in ${name}; ${before === 0 ? "no other ticket has waited longer" : `${counted(before, "ticket")} ${before === 1 ? "has" : "have"} waited longer`}.`,
    ...(entrant.headStartMs > 0
      ? [`Its priority gives it a head start: it counts as having waited ${entrant.headStartMs / 1_000} s longer.`]
      : []),
    ...(queue.mode === "paused" ? ["An operator has paused the queue: no match is made."] : []),
    ...fullTexts(state, rules, known, at),
    ...steps.map((step) => step.text),
    verdict(known.match.sides, ticket, steps.at(-1)?.left ?? 0),
    ...missing,
    ...(offer ? [offer.text] : []),
    ...tolerances.map(
      ({ rule, now, max, maxAfterS, unit }) =>
        `Accepts ${rule} within ${now}${unit && ` ${unit}`} now, ${max}${unit && ` ${unit}`} at most (after ${maxAfterS} s).`,
    ),
    // By name: an id alone says little to whoever asks.
    ...nearest.map((near) => {
      const other = state.queues.tickets.get(near.ticket);
      return other ? near.text.replace(near.ticket, `${names(other)} (${near.ticket})`) : near.text;
    }),
    ...waitingText(nextText, offer),
    estimate
      ? `Median wait of the last ${counted(estimate.from, "ticket")}${estimate.alike ? " of this party size" : ""}: ${estimate.p50S} s; three quarters waited less than ${estimate.p75S} s.`
      : "The usual wait is not known yet: too few tickets were matched lately.",
  ];
  return {
    ...base,
    funnel: [...steps],
    tolerances: [...tolerances],
    nearest: [...nearest],
    ...(offer && { offer }),
    ...(next && nextText && { next: { ...next, text: nextText } }),
    text,
  };
}

/** What waiting changes. A match that waiting alone brings about needs nobody new. */
function waitingText(next: string | undefined, offer: TicketExplanation["offer"]): string[] {
  if (next !== undefined) return [next];
  if (offer !== undefined && offer.inS !== null) return [];
  return ["Waiting longer brings none of the present tickets into reach; new ones have to come."];
}

const toTenth = (value: number) => Math.round(value * 10) / 10;

function offerView(offer: Offer | undefined): TicketExplanation["offer"] {
  if (offer === undefined) return undefined;
  const [score, meanWaitS, allowed] = [toTenth(offer.score), toTenth(offer.meanWaitS), toTenth(offer.allowed)];
  const inS = offer.inS === null ? null : toTenth(offer.inS);
  const when =
    inS === null
      ? "more than the allowance ever reaches, so it is not made"
      : inS === 0
        ? "it is made at the next pass unless a cheaper one takes its tickets"
        : `with the same tickets it is made in ${inS} s, unless a better one can be made before`;
  const text = `The best match it could have now scores ${score}; the mean wait of its ${counted(offer.tickets.length, "ticket")}, ${meanWaitS} s, makes up for ${allowed}: ${when}.`;
  return { tickets: [...offer.tickets], score, meanWaitS, allowed, inS, text };
}

function verdict({ count, min }: { count: number; min: number }, { players }: Ticket, left: number): string {
  const needed = count * min - players.length;
  if (left === 0) return `A match needs ${counted(needed, "more player")}; no other ticket is in reach.`;
  return `A match needs ${counted(needed, "more player")}; ${counted(left, "ticket")} ${left === 1 ? "is" : "are"} in reach, and all tickets of a match must be in reach of each other.`;
}

const names = ({ players }: Ticket) => players.map(({ name }) => name).join(", ");

function notMatched(state: QueuesPart, ticket: Ticket): string {
  const view = ticketView(state, ticket);
  if (view.confirm) return `Match ${view.confirm.match} was found for it; ${answersText(state, view.confirm.match)}`;
  if (view.state === "asking") {
    const missing = ticket.players.filter(({ agreed }) => !agreed).map(({ name }) => name);
    return `The search has not started: ${missing.join(" and ")} ${missing.length === 1 ? "has" : "have"} not agreed yet.`;
  }
  if (view.state === "held") {
    const away = ticket.players.filter(({ id }) => state.seen.rooms.player(id)?.presence !== "here");
    return `The ticket is held: ${away.map(({ name }) => name).join(" and ")} lost the connection.`;
  }
  return "The ticket is not looked at: the rules of the queue have no place for it.";
}

/** Who of a match has accepted it, and who has not answered. */
function answersText({ queues }: QueuesPart, id: string): string {
  const { tickets = [], asking } = queues.matches.get(id) ?? {};
  const all = tickets.flatMap(({ players }) => players);
  const missing = all.filter((player) => !asking?.accepted.includes(player.id)).map(({ name }) => name);
  const who =
    missing.length === 0
      ? "somebody lost the connection"
      : `${listed(missing)} ${missing.length === 1 ? "has" : "have"} not answered`;
  return `${all.length - missing.length} of ${all.length} players have accepted; ${who}.`;
}

/** On what it is played, once its room holds an instance. */
function playedText({ seen }: QueuesPart, { room, region }: MadeMatch): string[] {
  const held = room === null ? undefined : seen.pools.heldBy(room);
  if (held === undefined) return [];
  const other = region !== null && held.region !== null && held.region !== region;
  const where = held.region === null ? `on ${held.machine}` : `in ${held.region}`;
  return [`Its instance ${held.id} runs ${where}${other ? `, since ${region} had no place when it began` : ""}.`];
}

function whyText({ id, tickets: [first], quality }: MatchView, intoRoom: string | undefined): string {
  const oldest = `ticket ${first?.id}`;
  if (intoRoom !== undefined) {
    return `Match ${id} fills up room ${intoRoom}, which plays: of those who fit everybody in it ${oldest} had waited longest, ${first?.waitedS} s.`;
  }
  if (quality.allowed !== undefined) {
    return `Match ${id} was made since its score, ${quality.score}, was no more than the mean wait of its tickets, ${quality.meanWaitS} s, made up for: ${quality.allowed}.`;
  }
  return `Match ${id} was made for ${oldest}, which had waited ${first?.waitedS} s: of all it could have had, the one with the lowest score, ${quality.score}.`;
}

/** Why these, in which sides, with what quality; undefined when the match is not known any more. */
export function explainMatch(state: QueuesPart, id: string): MatchExplanation | undefined {
  const made = state.queues.matches.get(id);
  if (!made) return undefined;
  const match = matchView(made);
  const nameOf = new Map(made.tickets.flatMap(({ players }) => players.map((player) => [player.id, player.name])));
  const { quality, roles } = match;
  const named = (id: string) => {
    const name = nameOf.get(id) ?? id;
    return roles?.[id] === undefined ? name : `${name} (${roles[id]})`;
  };
  const intoRoom = made.into === undefined ? undefined : (state.seen.rooms.room(made.into)?.code ?? made.into);
  const text = [
    whyText(match, intoRoom),
    ...match.sides.map((side, n) => `Side ${n + 1}: ${side.map(named).join(", ")}.`),
    ...(quality.unmet ? [`Its tickets do not share ${listed(quality.unmet)}, which the queue prefers.`] : []),
    ...Object.entries(quality.spread).map(
      ([name, spread]) =>
        `${name}: the tickets lie within ${spread}; the means of the sides are ${quality.sideGap[name]} apart.`,
    ),
    match.region === null
      ? "The queue looks at no latency."
      : `It is played at ${match.region}, ${quality.worstLatencyMs} ms for the worst placed: the lowest worst latency of the regions that all could have and where a place was free.${made.regions.length > 1 ? ` It may also be played at ${made.regions.slice(1).join(" or ")}.` : ""}`,
    `The longest wait was ${quality.longestWaitS} s, the mean ${quality.meanWaitS} s.`,
    ...(made.asking ? [`Its players are confirming: ${answersText(state, id)}`] : []),
    made.room === null
      ? "Its room is not open."
      : `It became room ${made.room}${made.forming ? ", which is on its way" : ""}.`,
    ...playedText(state, made),
  ];
  return { match, text };
}
