import type { Revised } from "@yellow-harbor/protocol";
import { type PlayerArgs, type PlayerId, phaseWords } from "@yellow-harbor/protocol";
import { type Gap, type JoiningPlayers, type MatchPool, refillOf } from "../matching/index.ts";
import { accept, type Decision, nothingToDo, type QueuesContext, refuse } from "../model/decision.ts";
import { ownRoom, revisionReply, unknownRoom } from "../model/find-room.ts";
import { partyOf } from "../model/indexes/waiting-index.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { QueueRules } from "../model/queues/rules.ts";
import type { Backfill, MatchRoom, QueuesState } from "../model/queues/state.ts";
import { openPlaces } from "../model/rooms/reservations.ts";
import type { RoomSeen } from "../model/seen.ts";
import { newId } from "../model/stamp.ts";
import { type Leaving, leaverPause } from "./leavers.ts";

/** Somebody has left a room that a queue made: it plays on, asks for somebody else, or ends. */
export function memberLeft(context: QueuesContext, leaving: Leaving): Decision {
  const { state, rules } = context;
  const { room: id, name } = leaving;
  const paused = leaverPause(context, leaving);
  const room = state.seen.rooms.room(id);
  const known = state.queues.rooms.get(id);
  const queue = known && rules.queues.get(known.queue);
  if (room?.stage.phase !== "playing" || room.members.size === 0 || !known || !queue) return accept(paused);
  switch (queue.whenLeft) {
    case "play-on":
      return accept(paused);
    case "end": {
      const why = `${name} has left the match`;
      return accept([...paused, { kind: "queue.room-ended", queue: known.queue, room: id, why }]);
    }
    case "backfill": {
      const begun = startBackfill(context, room, known, queue, `${name} has left.`);
      return accept(begun === undefined ? paused : [...paused, begun]);
    }
  }
}

/** Asks for players; undefined when it asks already, has had its share of them, or has no place free. */
function startBackfill(
  { state, at }: QueuesContext,
  room: RoomSeen,
  known: MatchRoom,
  { backfill, match }: QueueRules,
  why: string,
): QueueEvent | undefined {
  const free = freeOf(room, match).free.reduce((sum, places) => sum + places, 0);
  const places = backfill.max - known.filled;
  if (state.queues.backfills.has(room.id) || places <= 0 || free === 0) return undefined;
  return {
    kind: "queue.backfill-started",
    queue: known.queue,
    room: room.id,
    untilMs: at + backfill.withinMs,
    places,
    why,
  };
}

/** The host wants somebody in the place of those who left, or nobody any more. */
export function backfill(
  context: QueuesContext,
  host: PlayerId,
  { wanted }: PlayerArgs<"queue.backfill">,
): Decision<Revised> {
  const found = ownRoom(context.state.seen.rooms, host, "switch its backfill");
  return "refused" in found ? found : wish(context, found.room, wanted, "its host");
}

export function operatorBackfill(context: QueuesContext, id: string, wanted: boolean): Decision<Revised> {
  const room = context.state.seen.rooms.room(id);
  return room === undefined ? unknownRoom(id) : wish(context, room, wanted, "an operator");
}

function wish(context: QueuesContext, room: RoomSeen, wanted: boolean, who: string): Decision<Revised> {
  const { queues } = context.state;
  const reply = revisionReply(room.id);
  const known = queues.rooms.get(room.id);
  const queue = known && context.rules.queues.get(known.queue);
  if (!known || queue?.whenLeft !== "backfill") {
    return refuse("not-of-queue", `Room ${room.code} is not one that a queue fills up; players join it by themselves.`);
  }
  if (!wanted) {
    const ended: QueueEvent = {
      kind: "queue.backfill-ended",
      queue: known.queue,
      room: room.id,
      why: `${who} wants nobody`,
    };
    return accept(queues.backfills.has(room.id) ? [ended] : [], { reply });
  }
  if (room.stage.phase !== "playing") {
    return refuse(
      "wrong-phase",
      `Room ${room.code} ${phaseWords[room.stage.phase]}; its queue fills it up while it plays.`,
    );
  }
  if (known.filled >= queue.backfill.max) {
    return refuse(
      "wrong-phase",
      `Room ${room.code} has had ${known.filled} players from its queue, and may have no more.`,
    );
  }
  const begun = startBackfill(context, room, known, queue, `${who} asks`);
  if (begun === undefined && !queues.backfills.has(room.id)) {
    return refuse("room-full", `Room ${room.code} has no place free for its queue to fill.`);
  }
  return accept(begun ? [begun] : [], { reply });
}

export function stopBackfill({ state }: QueuesContext, id: string, why: string): Decision {
  const backfill = state.queues.backfills.get(id);
  if (backfill === undefined) return nothingToDo;
  return accept([{ kind: "queue.backfill-ended", queue: backfill.queue, room: id, why }]);
}

/** Those who were found are in the room; it asks on while it may have more and has places. */
export function playersJoined({ state, rules }: QueuesContext, id: string): Decision {
  const match = state.queues.matches.get(id);
  if (match?.into === undefined || !match.forming) return nothingToDo;
  const { queue, into: room } = match;
  const events: QueueEvent[] = [{ kind: "queue.backfilled", queue, match: id, room }];
  const known = rules.queues.get(queue);
  const present = state.seen.rooms.room(room);
  const backfill = state.queues.backfills.get(room);
  const came = match.tickets.reduce((sum, { players }) => sum + players.length, 0);
  const free = known && present ? freeOf(present, known.match).free.reduce((sum, one) => sum + one, 0) : 0;
  if (backfill && (free === 0 || backfill.places <= came)) {
    events.push({ kind: "queue.backfill-ended", queue, room, why: free === 0 ? "it is full" : "it has had its share" });
  }
  return accept(events);
}

interface FillSlice {
  readonly known: QueueRules;
  readonly pool: MatchPool;
  readonly work: number;
  readonly max: number;
}

export interface Filled {
  readonly events: readonly QueueEvent[];
  /** Whether rooms are left to be looked at. */
  readonly hasMore: boolean;
}

/** Looks for players for the rooms that ask, until so much work is done or enough are found, who are taken out of the pool. */
export function fillRooms(context: QueuesContext, queue: string, { known, pool, work, max }: FillSlice): Filled {
  const { state, at } = context;
  const { backfills } = state.queues;
  const isAsking = (one: Backfill | undefined) => one?.queue === queue && one.match === null;
  const toFill = state.derived.waiting.toFill(queue, () =>
    [...backfills.values()].filter(isAsking).map(({ room }) => room),
  );
  const events: QueueEvent[] = [];
  if (toFill.length > 0) pool.settle(at);
  for (let left = work; left > 0 && events.length < max && toFill.length > 0; ) {
    const backfill = backfills.get(toFill.shift() ?? "");
    if (backfill === undefined || !isAsking(backfill)) continue;
    const gap = gapOf(state.queues, state.seen.rooms.room(backfill.room), backfill, known);
    if (gap === undefined) continue;
    const { found, work: done } = refillOf(pool, gap, at);
    left -= done;
    if (found)
      events.push(filledEvent(context, { queue, known, room: backfill.room, region: gap.region, found, pool }));
  }
  return { events, hasMore: toFill.length > 0 };
}

interface FoundFor {
  readonly queue: string;
  readonly known: QueueRules;
  readonly room: string;
  readonly region: string | null;
  readonly found: JoiningPlayers;
  readonly pool: MatchPool;
}

function filledEvent({ at, random }: QueuesContext, { queue, known, room, region, found, pool }: FoundFor): QueueEvent {
  const { quality, sides, rows, roles } = found;
  for (const row of rows) pool.remove(row);
  const { confirm } = known;
  const tickets = rows.map(({ entrant }) => entrant.party.ticket);
  return {
    kind: "queue.matched",
    queue,
    match: newId("m", random),
    tickets,
    region,
    sides,
    ...(roles && { roles }),
    quality,
    ...(confirm && { confirmByMs: at + confirm.withinMs }),
    into: room,
  };
}

function gapOf(
  queues: QueuesState,
  room: RoomSeen | undefined,
  { sinceMs, places }: Backfill,
  { match }: QueueRules,
): Gap | undefined {
  const known = room && queues.rooms.get(room.id);
  if (room?.stage.phase !== "playing" || !known) return undefined;
  const parties = known.tickets.flatMap((ticket) => {
    const players = ticket.players.filter(({ id }) => room.members.has(id));
    return players.length === 0 ? [] : [partyOf({ ...ticket, players }, match)];
  });
  const max = Math.min(places, openPlaces(room));
  const roles = new Map([...room.members.values()].flatMap(({ id, role }) => (role === undefined ? [] : [[id, role]])));
  return { parties, sinceMs, region: known.region, roles, max, ...freeOf(room, match) };
}

/** Free places side by side, as the queue's matches and the room's kind allow, and who plays where. */
function freeOf(room: RoomSeen, { sides }: QueueRules["match"]): Pick<Gap, "free" | "playing"> {
  const members = [...room.members.values()];
  const names = room.policy.sides?.names;
  const seats = openPlaces(room);
  if (names === undefined) {
    const free = Math.min(seats, sides.count * sides.max - members.length);
    return { free: [Math.max(0, free)], playing: [members.map(({ id }) => id)] };
  }
  const max = Math.min(sides.max, room.policy.sides?.max ?? sides.max);
  const playing = names
    .slice(0, sides.count)
    .map((name) => members.filter(({ side }) => side === name).map(({ id }) => id));
  return { free: playing.map((own) => Math.max(0, Math.min(seats, max - own.length))), playing };
}
