import type { Command } from "../../model/command.ts";
import type { Consequence } from "../../model/consequence.ts";
import type { HarborEvent } from "../../model/event.ts";
import { runOf } from "../../model/find-room.ts";
import type { OutOfRoom } from "../../model/lobbies/events.ts";
import type { HarborState } from "../../model/state.ts";
import { dropPrivate } from "./private-entries.ts";

/** Who left a room is in its lobby again, unless it went to another room or is gone altogether. */
export function rejoin(
  event: Extract<HarborEvent, { kind: "room.departed" | "room.unwatched" }>,
  state: HarborState,
): readonly Command[] {
  const { player, name, reason } = event;
  const known = state.players.byId.get(player);
  if (known === undefined || reason === "moved") return [];
  const { lobby, presence } = known;
  return [{ do: "lobby.join", lobby, player, name, presence, ...because(event) }];
}

/** Where the room kind says so, a room does not outlive its host's going. */
function closesWithHost({ room, reason, host }: Extract<HarborEvent, { kind: "room.departed" }>, state: HarborState) {
  return host !== undefined && reason !== "closed" && state.rooms.byId.get(room)?.policy.hostGoes === "close";
}

/** A room that nobody is in closes, at once or after its time; either way its run is over. */
function emptied(
  { room: id, reason }: Extract<HarborEvent, { kind: "room.departed" }>,
  state: HarborState,
): readonly Command[] {
  const room = state.rooms.byId.get(id);
  const close: Command = { do: "room.close", room: id };
  if (room === undefined || room.policy.emptyMs === 0 || reason === "closed") return [close];
  const run = runOf(room);
  if (run === null) return [];
  const detail = "Everybody has left.";
  return [
    { do: "room.return", room: id, run, code: "everybody-left", detail },
    { do: "pool.release", room: id, reason: "everybody has left its room" },
  ];
}

/** A member who is not on the way yet goes where the others are; `anew` when it has just come in. */
export function comeAlong(
  room: string,
  run: string,
  { id, name, place }: { readonly id: string; readonly name: string; readonly place: number },
  anew: boolean,
): readonly Command[] {
  const player = { id, name, place };
  return [
    { do: "travel.admit", run, player },
    { do: "pool.add-berth", room, run, player, anew },
    { do: "travel.add-berth", room, run, player, anew },
  ];
}

/** Who looks on goes where the room plays: to an instance, or into the world of a member. */
export const letLookOn = (room: string, run: string, player: string): readonly Command[] => [
  { do: "pool.add-spectator", room, run, player },
  { do: "travel.add-spectator", room, run, player },
];

/** Who looks on no longer has no berth in the world of a member any more. */
export function freeInWorld(room: string, player: string, { travels }: HarborState): readonly Command[] {
  const world = travels.worlds.get(room);
  return world?.berths.has(player) ? [{ do: "travel.forget", room, run: world.run, player }] : [];
}

/** The destination that is to be tried now: an instance is asked for, the rest the travel sees to itself. */
export function prepare(run: string, state: HarborState): readonly (Command | Consequence)[] {
  const travel = state.travels.byRun.get(run);
  if (travel?.options[travel.option] !== "dedicated") return [{ do: "travel.prepare", run }];
  return [
    {
      command: { do: "pool.allocate", pool: travel.pool ?? "", room: travel.room, run },
      otherwise: ({ code, detail }) => ({ do: "travel.forfeit", run, code, detail }),
    },
  ];
}

/** A barrier may wait for others by now. */
export const considerTravel = (room: string, { rooms }: HarborState): readonly Command[] => {
  const run = runOf(rooms.byId.get(room));
  return run === null ? [] : [{ do: "travel.consider", run }];
};

/** Who did not leave by itself is told why it is in the lobby again. */
function because({
  room,
  reason,
  by = "operator",
  why,
}: Extract<HarborEvent, { kind: "room.departed" | "room.unwatched" }>): {
  because?: OutOfRoom;
} {
  if (reason === "late" || reason === "idle") return { because: { room, cause: reason } };
  if (reason !== "kicked" && reason !== "closed") return {};
  return { because: { room, cause: reason, by, ...(why !== undefined && { why }) } };
}

/** What a player brings may be shown in its room. */
export function showAttributes(player: string, { players }: HarborState): readonly Command[] {
  const room = players.byId.get(player)?.room;
  return room == null ? [] : [{ do: "room.describe-member", room, player }];
}

/** All that follows when a member is gone, the room's own end last. */
export function departed(
  event: Extract<HarborEvent, { kind: "room.departed" }>,
  state: HarborState,
): readonly Command[] {
  const { room: id, player, reason, why, by } = event;
  const room = state.rooms.byId.get(id);
  const run = runOf(room);
  const isEmpty = room?.members.size === 0;
  return [
    ...(reason === "closed"
      ? []
      : ([
          { do: "queue.forfeit", room: id, player },
          { do: "queue.member-left", room: id, player, name: event.name, reason },
        ] as const)),
    ...rejoin(event, state),
    ...dropPrivate(state, id, player, event.watches === true),
    { do: "party.check-member", player },
    { do: "room.consider", room: id },
    { do: "pool.free-berth", room: id, player },
    { do: "pool.tell-match", room: id },
    ...(run ? [{ do: "travel.forget", room: id, run, player } as const] : []),
    ...(reason === "closed" ? [{ do: "room.dissolve", room: id, reason: why, by: by ?? "operator" } as const] : []),
    ...(closesWithHost(event, state)
      ? [{ do: "room.dissolve", room: id, reason: "its host has left", by: "host" } as const]
      : []),
    ...(isEmpty ? [{ do: "queue.stop-backfill", room: id, why: "nobody is in it any more" } as const] : []),
    // Last of all, and only for the last one to go: what else follows from the departure still needs the room.
    ...(isEmpty ? emptied(event, state) : []),
  ];
}
