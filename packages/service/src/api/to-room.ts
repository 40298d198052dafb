import type { Command } from "@yellow-harbor/core";
import type { Problem, Revised } from "@yellow-harbor/protocol";
import { findRoom, unknownRoom } from "./find-room.ts";
import type { ApiParts } from "./parts.ts";

/** Commands that are answered with the revision of the room after them. */
type Revising = Exclude<
  Extract<
    Command,
    { do: `room.operator-${string}` | "room.dissolve" | "travel.operator-abort" | "queue.operator-backfill" }
  >,
  { do: "room.operator-open" }
>;

/** Finds a room by id or code, and has a command decided for it. */
export const commandsTo =
  (runtime: ApiParts["runtime"]) =>
  async (idOrCode: string, command: (room: string) => Revising): Promise<Revised | { readonly refused: Problem }> => {
    const id = await runtime.query((harbor) => findRoom(harbor, idOrCode)?.id);
    if (id === undefined) return { refused: unknownRoom(idOrCode) };
    const settled = await runtime.ask(command(id));
    return "refused" in settled ? settled : settled.reply;
  };
