import type { RoomsSeen } from "../model/seen.ts";
import type { RoomsPart } from "../model/state.ts";
import { travel } from "../travel/index.ts";

/** What queues and pools see of players, rooms and travels. */
export const seenOfRooms = (all: () => RoomsPart): RoomsSeen => ({
  player: (id) => all().players.byId.get(id),
  room: (id) => all().rooms.byId.get(id),
  partyOf: (id) => all().parties.byId.get(all().parties.byPlayer.get(id) ?? ""),
  travel: (run) => all().travels.byRun.get(run),
  countingDown: () =>
    [...all().rooms.byId.values()].flatMap(({ stage, level }) =>
      stage.phase === "counting" && level !== null ? [level.id] : [],
    ),
  resultOf: (run) => [...all().rooms.byId.values()].find(({ result }) => result?.run === run)?.result ?? undefined,
  owedPass: (room, player) => travel.views.owedPass(all(), room, player),
});
