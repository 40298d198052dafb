import type { PlayerState } from "@yellow-harbor/client";
import type { MemberView, RoomView } from "@yellow-harbor/protocol";

/** Who is here with the player, in lines. */
export function who({ room, lobby }: PlayerState): string[] {
  if (room) return inRoom(room);
  const { counts, players } = lobby ?? {};
  const rooms = `${counts?.inRooms ?? 0} more in ${counts?.rooms ?? 0} ${counts?.rooms === 1 ? "room" : "rooms"}`;
  if (players === undefined) return [`Lobby ${lobby?.id}: a crowd of ${counts?.players}, ${rooms}`];
  const others = Object.values(players).map((player) => player.name);
  return [`Lobby ${lobby?.id}: ${others.join(", ")}; ${rooms}`];
}

function inRoom(room: RoomView): string[] {
  const members = Object.values(room.members).sort((a, b) => a.place - b.place);
  const lines = members.map((member) => `${member.place}  ${member.name}${marksOf(member, room)}`);
  const missing = room.missing.length === 0 ? [] : [`Missing: ${room.missing.map((row) => row.text).join("; ")}.`];
  const settings = Object.entries(room.settings).map(([key, value]) => `${key} ${value}`);
  return [
    `Room ${room.code}, ${room.phase}, level ${room.level?.id ?? "not picked"}, ${members.length} of ${room.capacity}:`,
    ...lines,
    ...watching(room),
    ...(settings.length === 0 ? [] : [`Settings: ${settings.join(", ")}.`]),
    ...missing,
  ];
}

function watching({ spectators }: RoomView): string[] {
  const names = Object.values(spectators?.players ?? {}).map(({ name }) => name);
  return names.length === 0 ? [] : [`${names.join(", ")} ${names.length === 1 ? "looks" : "look"} on.`];
}

function marksOf({ id, side, ready, presence, latencyMs, swapWith }: MemberView, room: RoomView): string {
  const marks = [
    ...[side, id === room.host && "host", ready && "ready", presence === "away" && "away"],
    ...[room.turn?.holder === id && "has the turn", swapWith && `offers ${room.members[swapWith]?.name} to swap`],
    latencyMs !== undefined && `${latencyMs} ms`,
  ].filter(Boolean);
  return marks.length === 0 ? "" : `  ${marks.join(", ")}`;
}
