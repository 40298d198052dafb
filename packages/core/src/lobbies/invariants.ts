import type { RoomsPart } from "../model/state.ts";

/** What must never be in a lobby, each in a sentence. */
export function lobbyViolations({ lobbies, players, rooms }: RoomsPart): string[] {
  const misplaced = [...players.byId.values()]
    .filter(({ id, lobby, room }) => (lobbies.byId.get(lobby)?.standing.has(id) ?? false) !== (room === null))
    .map(({ id, lobby }) => `lobby ${lobby}: ${id} is in it and in a room, or in neither`);
  const strangers = [...lobbies.byId.values()].flatMap(({ id, standing, rooms: listed, inRooms }) => {
    const admitted = [...listed].reduce((sum, room) => sum + (rooms.byId.get(room)?.members.size ?? 0), 0);
    return [
      ...[...standing.keys()].filter((one) => !players.byId.has(one)).map((one) => `lobby ${id}: ${one} is unknown`),
      ...[...listed].filter((one) => !rooms.byId.has(one)).map((one) => `lobby ${id}: room ${one} is unknown`),
      ...(admitted === inRooms ? [] : [`lobby ${id}: ${inRooms} counted in its rooms, where ${admitted} are`]),
    ];
  });
  return [...misplaced, ...strangers];
}
