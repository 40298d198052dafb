import type { HarborState } from "../harbor/state.ts";

/** What must never be in the queues, each in a sentence. */
export function queueFaults({ queues, players }: HarborState): string[] {
  const tickets = [...queues.tickets.values()].flatMap((ticket) => {
    const { id, queue, sinceMs } = ticket;
    const lost = ticket.players.filter((player) => queues.byPlayer.get(player.id) !== id);
    const inRooms = ticket.players.filter((player) => players.byId.get(player.id)?.room != null);
    const gone = ticket.players.filter((player) => !players.byId.has(player.id));
    return [
      ...(queues.byName.get(queue)?.tickets.has(id) ? [] : [`it is not in queue ${queue}`]),
      ...(sinceMs !== null && ticket.players.some(({ agreed }) => !agreed)
        ? ["it searches before all have agreed"]
        : []),
      ...lost.map((player) => `${player.id} does not know of it`),
      ...inRooms.map((player) => `${player.id} is in a room`),
      ...gone.map((player) => `${player.id} has left`),
    ].map((fault) => `ticket ${id}: ${fault}`);
  });
  const strays = [...queues.byPlayer].filter(([, ticket]) => !queues.tickets.has(ticket));
  const matches = [...queues.byRoom].filter(([room, match]) => queues.matches.get(match)?.room !== room);
  return [
    ...tickets,
    ...strays.map(([player, ticket]) => `${player} searches with ${ticket}, which is not there`),
    ...matches.map(([room, match]) => `room ${room} is of match ${match}, which does not know of it`),
  ];
}
