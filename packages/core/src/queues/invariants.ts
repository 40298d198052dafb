import type { DueKind } from "../model/due.ts";
import { type QueuesState, queuesOf, type Ticket } from "../model/queues/state.ts";
import type { QueuesPart } from "../model/state.ts";

/** What in the queues waits for a time. */
export const queueWaits = ({ tickets, matches, backfills }: QueuesState): [kind: DueKind, subject: string][] => [
  ...[...tickets.values()]
    .filter(({ untilMs, asked }) => untilMs !== null && asked === undefined)
    .map(({ id }): [DueKind, string] => ["ticket-end", id]),
  ...[...matches.values()].filter(({ asking }) => asking).map(({ id }): [DueKind, string] => ["match-confirm", id]),
  ...[...backfills.keys()].map((room): [DueKind, string] => ["backfill-end", room]),
];

const NOWHERE = { queue: "", also: [] } as unknown as Ticket;

/** What must never be in the queues, each in a sentence. */
export function queueViolations({ queues, seen: { rooms } }: QueuesPart): string[] {
  const tickets = [...queues.tickets.values()].flatMap((ticket) => {
    const { id, sinceMs } = ticket;
    const lost = ticket.players.filter((player) => queues.byPlayer.get(player.id) !== id);
    const inRooms = ticket.players.filter((player) => rooms.player(player.id)?.room != null);
    const gone = ticket.players.filter((player) => !rooms.player(player.id));
    return [
      ...queuesOf(ticket)
        .filter((queue) => !queues.byName.get(queue)?.tickets.has(id))
        .map((queue) => `it is not in queue ${queue}`),
      ...(sinceMs !== null && ticket.players.some(({ agreed }) => !agreed)
        ? ["it searches before all have agreed"]
        : []),
      ...(ticket.asked === undefined || queues.matches.get(ticket.asked)?.asking
        ? []
        : [`it is asked about ${ticket.asked}, which asks nobody`]),
      ...lost.map((player) => `${player.id} does not know of it`),
      ...inRooms.map((player) => `${player.id} is in a room`),
      ...gone.map((player) => `${player.id} has left`),
    ].map((fault) => `ticket ${id}: ${fault}`);
  });
  const left = [...queues.byName.values()].flatMap(({ id: queue, tickets: all }) =>
    [...all].filter((id) => !queuesOf(queues.tickets.get(id) ?? NOWHERE).includes(queue)).map((id) => [queue, id]),
  );
  const strays = [...queues.byPlayer].filter(([, ticket]) => !queues.tickets.has(ticket));
  const matches = [...queues.byRoom].filter(([room, match]) => queues.matches.get(match)?.room !== room);
  const asking = [...queues.matches.values()].filter(
    (match) => match.asking && match.tickets.some(({ id }) => queues.tickets.get(id)?.asked !== match.id),
  );
  const backfills = [...queues.backfills.values()].filter(({ room }) => rooms.room(room)?.stage.phase !== "playing");
  const known = [...queues.rooms.keys()].filter((room) => !rooms.room(room));
  return [
    ...asking.map(({ id }) => `match ${id} asks players whose ticket does not know of it`),
    ...backfills.map(({ room }) => `room ${room} looks for replacements and does not play`),
    ...known.map((room) => `the queue knows of room ${room}, which is not there`),
    ...tickets,
    ...left.map(([queue, ticket]) => `queue ${queue} has ticket ${ticket}, which does not search in it`),
    ...strays.map(([player, ticket]) => `${player} searches with ${ticket}, which is not there`),
    ...matches.map(([room, match]) => `room ${room} is of match ${match}, which does not know of it`),
  ];
}
