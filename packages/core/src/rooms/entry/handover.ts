import type { PlayerId } from "@yellow-harbor/protocol";
import type { Room } from "../../model/rooms/state.ts";

/** Who becomes host when `leaver` goes, by the rule of the room kind; those who are here before those away. */
export function nextHost(room: Room, leaver: PlayerId): PlayerId | undefined {
  const others = [...room.members.values()].filter((member) => member.id !== leaver);
  // Members stand in the order in which they came, and sorting is stable: who was never measured comes last.
  if (room.policy.nextHost === "lowest-latency") {
    const latencyMs = (member: (typeof others)[number]) => member.latency?.latencyMs ?? Number.MAX_SAFE_INTEGER;
    others.sort((a, b) => latencyMs(a) - latencyMs(b));
  }
  return (others.find((member) => member.presence === "here") ?? others[0])?.id;
}
