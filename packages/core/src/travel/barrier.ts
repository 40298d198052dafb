import type { PlayerId } from "@yellow-harbor/protocol";
import type { Member, Room } from "../model/find-room.ts";
import type { Travel, Traveller } from "../model/travel/state.ts";

/** Someone about to arrive, or to be gone, with the very decision that asks. */
export interface Soon {
  readonly arrives?: PlayerId;
  readonly goes?: PlayerId;
}

/** Whom the barrier counts and has not seen arrive: everybody, or where it goes without stragglers those who are there. */
export function waitedFor(
  travel: Travel,
  members: ReadonlyMap<PlayerId, Member> | undefined,
  soon: Soon = {},
): Traveller[] {
  return [...travel.travellers.values()].filter((traveller) => {
    if (hasArrived(traveller, soon) || traveller.id === soon.goes) return false;
    if (travel.stragglers !== "go-without") return true;
    const member = members?.get(traveller.id);
    return member?.presence === "here" && member.attention === null;
  });
}

const hasArrived = ({ id, arrived }: Traveller, { arrives }: Soon) => arrived || id === arrives;

/** Whether the barrier opens now: all whom the policy counts have arrived, and they are enough to play. */
export function isComplete(travel: Travel, room: Room | undefined, soon: Soon = {}): boolean {
  if (travel.step !== "boarding" || travel.destination === null) return false;
  if (waitedFor(travel, room?.members, soon).length > 0) return false;
  // Also when everybody who is left has arrived: the others may have gone meanwhile.
  return tally(travel, soon).there >= Math.max(1, minOf(room));
}

/** Whether it opens at its deadline, with those who are there. */
export function opensAtDeadline(travel: Travel, room: Room | undefined): boolean {
  if (travel.step !== "boarding" || travel.destination === null || travel.stragglers === "wait") return false;
  return tally(travel).there >= Math.max(1, minOf(room));
}

/** Who has arrived, in number, and who has not. */
export function tally(
  travel: Travel,
  soon: Soon = {},
): { readonly there: number; readonly missing: readonly PlayerId[] } {
  const going = [...travel.travellers.values()].filter(({ id }) => id !== soon.goes);
  const missing = going.filter((traveller) => !hasArrived(traveller, soon)).map(({ id }) => id);
  return { there: going.length - missing.length, missing };
}

/** Fewest players with whom a run may begin: what the room kind and the level ask for. */
export const minOf = (room: Room | undefined): number => Math.max(room?.policy.minPlayers ?? 1, room?.level?.min ?? 1);
