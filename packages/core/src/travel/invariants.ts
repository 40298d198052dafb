import { runOf } from "../model/find-room.ts";
import type { RoomsPart } from "../model/state.ts";
import { isComplete } from "./barrier.ts";

/** What must never be in a travel, each in a sentence. */
export function travelViolations({ travels, rooms }: RoomsPart): string[] {
  const faults = [...travels.byRun.values()].flatMap((travel) => {
    const { run, room: id, step, destination, options, option, hosting } = travel;
    const room = rooms.byId.get(id);
    const strays = [...travel.travellers.keys()].filter((player) => !room?.members.has(player));
    return [
      ...(runOf(room) === run ? [] : [`it belongs to no run of room ${id}`]),
      ...((step === "boarding") === (destination !== null) ? [] : [`step ${step} with destination ${destination?.by}`]),
      ...(destination !== null && destination.by !== options[option]
        ? [`it goes ${destination.by}, not ${options[option]}`]
        : []),
      ...(hosting !== null && options[option] !== "player-hosted"
        ? ["a member is asked to host what nobody hosts"]
        : []),
      ...(isComplete(travel, room) ? ["everybody it waits for has arrived, and it is not over"] : []),
      ...strays.map((player) => `${player} travels and is not in the room`),
    ].map((fault) => `travel ${run}: ${fault}`);
  });
  const worlds = [...travels.worlds.values()].flatMap(({ room: id, run, player, berths }) => {
    const room = rooms.byId.get(id);
    return [
      ...(runOf(room) === run ? [] : [`world of room ${id}: its run ${run} is over`]),
      ...(room?.members.has(player) ? [] : [`world of room ${id}: ${player}, who runs it, is not in the room`]),
      ...[...berths.keys()]
        .filter((one) => !room?.members.has(one) && !room?.spectators.has(one))
        .map((one) => `world of room ${id}: a berth for ${one}, who is not in the room`),
    ];
  });
  return [...faults, ...worlds];
}
