import type { OperatorRoutes } from "@yellow-harbor/protocol";
import { findRoom, unknownRoom } from "./find-room.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";
import { commandsTo } from "./to-room.ts";

type RoomVerbs = Pick<
  OperatorRoutes,
  | `${"close" | "handOver" | "backfill" | "notify"}Room`
  | `${"kickFrom" | "banFrom" | "unbanFrom"}Room`
  | "setResult"
  | "abortTravel"
>;

/** What operators may do to a room. */
export function roomVerbs({ runtime, notice }: ApiParts): Handlers<RoomVerbs> {
  const toRoom = commandsTo(runtime);
  return {
    closeRoom: ({ params, body: { reason } }) =>
      toRoom(params.room, (room) => ({ do: "room.dissolve", room, reason, by: "operator" })),
    kickFromRoom: ({ params, body: { player, reason, ban } }) =>
      toRoom(params.room, (room) => ({ do: "room.operator-kick", room, player, reason, ban })),
    banFromRoom: ({ params, body: { player, reason } }) =>
      toRoom(params.room, (room) => ({ do: "room.operator-ban", room, player, reason })),
    unbanFromRoom: ({ params, body: { player } }) =>
      toRoom(params.room, (room) => ({ do: "room.operator-unban", room, player })),
    handOverRoom: ({ params, body: { to } }) =>
      toRoom(params.room, (room) => ({ do: "room.operator-hand-over", room, to })),
    setResult: ({ params, body }) => toRoom(params.room, (room) => ({ do: "room.operator-set-result", room, ...body })),
    abortTravel: ({ params, body: { reason } }) =>
      toRoom(params.room, (room) => ({ do: "travel.operator-abort", room, reason })),
    backfillRoom: ({ params, body: { wanted } }) =>
      toRoom(params.room, (room) => ({ do: "queue.operator-backfill", room, wanted })),
    notifyRoom: async ({ params, body: { text } }) => {
      const members = await runtime.query((harbor) => [...(findRoom(harbor, params.room)?.members.keys() ?? [])]);
      if (members.length === 0) return { refused: unknownRoom(params.room) };
      return { delivered: notice("room", members, text) };
    },
  };
}
