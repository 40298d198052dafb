import type { Command } from "@yellow-harbor/core";
import type { OperatorRoutes, Revised } from "@yellow-harbor/protocol";
import { findRoom, unknownRoom } from "./find-room.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type RoomVerbs = Pick<
  OperatorRoutes,
  | `${"close" | "handOver" | "backfill" | "notify"}Room`
  | `${"kickFrom" | "banFrom" | "unbanFrom"}Room`
  | "setResult"
  | "abortTravel"
>;

/** Commands that are answered with the revision of the room after them. */
type Revising = Exclude<
  Extract<
    Command,
    { do: `room.operator-${string}` | "room.dissolve" | "travel.operator-abort" | "queue.operator-backfill" }
  >,
  { do: "room.operator-open" }
>;

/** What operators may do to a room. */
export function roomVerbs({ runtime, notice }: ApiParts): Handlers<RoomVerbs> {
  /** Finds the room by id or code, and has a command decided for it. */
  const toRoom = async (idOrCode: string, command: (room: string) => Revising) => {
    const id = await runtime.query((harbor) => findRoom(harbor, idOrCode)?.id);
    if (id === undefined) return { refused: unknownRoom(idOrCode) };
    const settled = await runtime.ask(command(id));
    return "refused" in settled ? settled : (settled.reply satisfies Revised);
  };
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
    setResult: ({ params, body: { standings, note } }) =>
      toRoom(params.room, (room) => ({ do: "room.operator-set-result", room, scores: standings, note })),
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
