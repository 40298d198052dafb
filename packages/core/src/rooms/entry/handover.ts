import type { PlayerId } from "@yellow-harbor/protocol";
import type { Member, Room } from "../../model/rooms/state.ts";

/** Who becomes host when `leaver` goes, by the rule of the room kind; those who are here before those away. */
export function nextHost(room: Room, leaver: PlayerId): PlayerId | undefined {
  const others = [...room.members.values()].filter((member) => member.id !== leaver);
  const better = orders[room.policy.nextHost];
  // Members stand in the order in which they came, and sorting is stable: who was never measured comes last.
  if (better) {
    const values = new Map(others.map((member) => [member.id, better(member, others)] as const));
    others.sort((a, b) => (values.get(a.id) ?? 0) - (values.get(b.id) ?? 0));
  }
  return (others.find((member) => member.presence === "here") ?? others[0])?.id;
}

const NEVER_MEASURED = Number.MAX_SAFE_INTEGER;

/** What is to be low, in milliseconds; none where the one who came first is next. */
const orders: { readonly [H in Room["policy"]["nextHost"]]?: (one: Member, all: readonly Member[]) => number } = {
  "lowest-latency": ({ latency }) => latency?.latencyMs ?? NEVER_MEASURED,
  "best-connected": worstToOthers,
};

/** How far the farthest of the others who are here is. */
function worstToOthers(one: Member, all: readonly Member[]): number {
  const others = all.filter(({ id, presence }) => id !== one.id && presence === "here");
  return Math.max(0, ...others.map((other) => betweenMs(one, other)));
}

/** The worse of what the two tell: nobody makes itself the nearest by its word alone. */
function betweenMs(one: Member, other: Member): number {
  const told = [one.peersMs?.[other.id], other.peersMs?.[one.id]].filter((ms) => ms !== undefined);
  return told.length === 0 ? NEVER_MEASURED : Math.max(...told);
}
