import { counted, type PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../../model/decision.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { type Room, runOf } from "../../model/rooms/state.ts";
import { startedEvent } from "../start/decide-start.ts";

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

/** The travel came to nothing. Who chose that finds everything as it was. */
export function returnRoom({ state, at }: RoomsContext, command: Doing<"room.return">): Decision {
  const { room: id, run, code, detail, aborted } = command;
  const room = state.rooms.byId.get(id);
  if (room === undefined || runOf(room) !== run) return nothingToDo;
  const returned: RoomEvent = { kind: "room.returned", room: id, run, code, detail };
  if (aborted === undefined) return accept([returned]);
  const { stage } = room;
  const toResults = stage.phase === "travelling" && stage.cameFrom === "results" && room.policy.resultsMs > 0;
  return accept([
    {
      ...returned,
      kept: { but: takingBack(room, aborted.by) },
      ...(toResults && { untilMs: at + room.policy.resultsMs }),
    },
  ]);
}

/** A room that starts by itself would start again at once: who gave the travel up takes its word back, or everybody does. */
function takingBack({ policy, members }: Room, by: PlayerId | null): PlayerId[] {
  if (!policy.autoStart) return [];
  return by !== null && members.has(by) ? [by] : [...members.keys()];
}

/** A run whose result never came is void: nobody is left waiting for one that has been forgotten. */
export function overdue({ state }: RoomsContext, id: string): Decision {
  const room = state.rooms.byId.get(id);
  if (room?.stage.phase !== "playing") return nothingToDo;
  const minutes = Math.round(room.policy.playMs / 6_000) / 10;
  const detail = `No result came within ${counted(minutes, "minute")}; the run is void.`;
  return accept([{ kind: "room.returned", room: id, run: room.stage.run, code: "result-overdue", detail, void: true }]);
}

/** The run is void. Where the room kind says so it begins anew at another place, a few times in a row. */
export function loseRun(context: RoomsContext, { room: id, run, code, detail }: Doing<"room.lose-run">): Decision {
  const { state, rules } = context;
  const room = state.rooms.byId.get(id);
  const stage = room?.stage;
  if (room === undefined || stage === undefined || !("run" in stage) || stage.run !== run) return nothingToDo;
  const returned: RoomEvent = { kind: "room.returned", room: id, run, code, detail, void: true };
  const moves = stage.moves + 1;
  const mayMove = room.policy.onLoss === "move" && room.members.size > 0 && moves < rules.travel.attempts;
  const started = mayMove ? startedEvent(context, room, { moves }) : undefined;
  return accept(started && "kind" in started ? [returned, started] : [returned]);
}
