import { type Harbor, roomListing } from "@yellow-harbor/core";
import type { LevelView, PlayerId, Problem, RoomListing } from "@yellow-harbor/protocol";
import { problem } from "@yellow-harbor/protocol";
import type { HarborRuntime } from "../harbor/runtime.ts";
import type { CheckedRequest } from "./decode.ts";

export type Answer = { readonly reply: Record<string, unknown> } | { readonly refused: Problem };

/** Carries out a checked request of a player. `done` is called once all that the answer shows is durable. */
export function dispatch(
  request: Exclude<CheckedRequest, { ask: "room.relay" }>,
  player: PlayerId,
  runtime: HarborRuntime,
  done: (answer: Answer) => void,
): void {
  const fail = () =>
    done({ refused: problem("journal-unavailable", "The service cannot answer now; try again later.") });
  switch (request.ask) {
    case "level.list":
      return runtime.read(listLevels, (levels) => done({ reply: { levels } }), fail);
    case "lobby.rooms": {
      const { limit } = request.args;
      return runtime.read(
        (harbor) => listRooms(harbor, player, limit),
        (reply) => done({ reply }),
        fail,
      );
    }
    case "player.leave":
      return runtime.submit({ do: "player.leave", player }, done);
    default:
      return runtime.submit(asCommand(request, player), done);
  }
}

type RoomRequest = Exclude<Extract<CheckedRequest, { ask: `room.${string}` }>, { ask: "room.relay" }>;

/** A room's requests are its commands, word for word, with the player who asks. */
const asCommand = ({ ask, args }: RoomRequest, player: PlayerId) =>
  ({ do: ask, player, args }) as {
    [R in RoomRequest as R["ask"]]: { do: R["ask"]; player: PlayerId; args: R["args"] };
  }[RoomRequest["ask"]];

const listLevels = ({ rules }: Harbor): LevelView[] =>
  [...rules.levels].map(([id, { title, least, most }]) => ({ id, title, least, most }));

function listRooms({ state }: Harbor, player: PlayerId, limit: number): { rooms: RoomListing[]; total: number } {
  const known = state.players.byId.get(player);
  const ids = known === undefined ? [] : [...(state.lobbies.byId.get(known.lobby)?.rooms ?? [])];
  const listed = ids.flatMap((id) => state.rooms.byId.get(id) ?? []).filter((room) => room.visibility === "listed");
  return { rooms: listed.slice(-limit).reverse().map(roomListing), total: listed.length };
}
