// Read by a compiler in a project of its own: the types that are shipped stand alone.
import { OperatorClient, PlayerClient, type PlayerState, ProblemError } from "@yellow-harbor/client";
import { InstanceKit } from "@yellow-harbor/kit";
import { type RoomPage, WIRE_VERSION } from "@yellow-harbor/protocol";

export async function codeOfNewRoom(url: string): Promise<string> {
  const player: PlayerClient = await PlayerClient.connect({ url, name: "Ansel", build: "game-1" });
  const { room } = await player.openRoom({ capacity: 2 });
  const state: PlayerState = player.state;
  // @ts-expect-error: a room has no such field, which a compiler knows by the types alone.
  room.colour;
  return state.room?.code ?? room.code;
}

export const rooms = async (url: string): Promise<RoomPage["rooms"] | string> => {
  try {
    return (await new OperatorClient({ url }).rooms({})).rooms;
  } catch (error) {
    return error instanceof ProblemError ? error.problem.code : String(error);
  }
};

export const makeKit = () => new InstanceKit({ match: () => undefined, stop: () => undefined });
export const wire: number = WIRE_VERSION;
