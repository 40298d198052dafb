import type { PlayerId } from "@yellow-harbor/protocol";
import type { Room } from "./state.ts";

/** Who becomes host when `leaver` goes: the one present longest, those who are here before those away. */
export function nextHost(room: Room, leaver: PlayerId): PlayerId | undefined {
  const others = [...room.members.values()].filter((member) => member.id !== leaver);
  return (others.find((member) => member.presence === "here") ?? others[0])?.id;
}
