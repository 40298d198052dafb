import { explainJoin, explainRoom, explainTravel, type Harbor, type Room, roomView } from "@yellow-harbor/core";
import { type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import { findRoom, unknownRoom } from "./find-room.ts";
import { tagOf } from "./operated-rooms.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type RoomLooks = Pick<OperatorRoutes, "rooms" | "room" | "result" | "explainRoom" | "explainJoin" | "explainTravel">;

/** Rooms as operators see them. */
export function roomHandlers({ runtime }: ApiParts): Handlers<RoomLooks> {
  /** What is to be shown of a room, by id or code. */
  const ofRoom = async <T>(idOrCode: string, show: (harbor: Harbor, room: Room, atMs: number) => T) => {
    const shown = await runtime.query((harbor, atMs) => {
      const room = findRoom(harbor, idOrCode);
      return room && show(harbor, room, atMs);
    });
    return shown ?? { refused: unknownRoom(idOrCode) };
  };
  return {
    rooms: async ({ query: { limit, after, lobby, phase, region } }) => {
      if (lobby !== undefined && !runtime.rules.lobbies.has(lobby)) {
        const accepted = [...runtime.rules.lobbies.keys()];
        const detail = `There is no lobby ${lobby}; the lobbies are ${accepted.join(", ")}.`;
        return { refused: problem("lobby-unknown", detail, { accepted }) };
      }
      const isWanted = (room: Room) =>
        (lobby === undefined || room.lobby === lobby) &&
        (phase === undefined || room.stage.phase === phase) &&
        (region === undefined || room.region === region);
      return runtime.query((harbor) => pageOf(harbor, isWanted, limit, after));
    },
    room: async ({ params, reply }) => {
      const view = await ofRoom(params.room, ({ state }, room) => roomView(state, room));
      if (!("refused" in view)) reply.header("etag", tagOf(view.revision));
      return view;
    },
    result: ({ params }) => ofRoom(params.room, (_harbor, { result }) => (result ? { result } : {})),
    explainRoom: ({ params }) => ofRoom(params.room, ({ state }, room, atMs) => explainRoom(state, room, atMs)),
    explainTravel: ({ params }) => ofRoom(params.room, ({ state }, room, atMs) => explainTravel(state, room, atMs)),
    explainJoin: ({ params, query: { player } }) =>
      ofRoom(params.room, ({ state }, room) => explainJoin(state, room, player) ?? { refused: unknownPlayer(player) }),
  };
}

/** Newest first; the cursor names the last room of the page before. */
function pageOf({ state }: Harbor, isWanted: (room: Room) => boolean, limit: number, after: string | undefined) {
  const wanted = [...state.rooms.byId.values()]
    .filter(isWanted)
    .sort((a, b) => b.openedAtMs - a.openedAtMs || (a.id < b.id ? -1 : 1));
  const [openedAtMs = 0, id = ""] =
    after === undefined ? [] : [Number(after.split("_")[0]), after.replace(/^\d+_/, "")];
  const isBehind = (room: Room) => room.openedAtMs < openedAtMs || (room.openedAtMs === openedAtMs && room.id > id);
  const from = after === undefined ? 0 : wanted.findIndex(isBehind);
  const page = from < 0 ? [] : wanted.slice(from, from + limit);
  const last = page.at(-1);
  const hasMore = last !== undefined && from + limit < wanted.length;
  return {
    rooms: page.map((room) => roomView(state, room)),
    ...(hasMore && { next: `${last.openedAtMs}_${last.id}` }),
  };
}

const unknownPlayer = (id: string) =>
  problem("player-unknown", `There is no player ${id}; \`yh player list\` shows those there are.`);
