import type { PlayerId, ProblemCode, Revised, RunId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../model/decision.ts";
import { type Member, type Room, revisionReply, runOf } from "../model/find-room.ts";
import type { TravelEvent } from "../model/travel/events.ts";
import type { Travel, Traveller } from "../model/travel/state.ts";
import { isComplete, type Soon, tally } from "./barrier.ts";

/** A member whose room is on its way to a run, or there. */
export interface OnTheWay {
  readonly room: Room;
  readonly member: Member;
  readonly run: RunId;
  /** Undefined once the barrier was opened. */
  readonly travel: Travel | undefined;
  readonly traveller: Traveller | undefined;
}

export function arrive({ state }: RoomsContext, travel: Travel, player: PlayerId): Decision {
  const traveller = travel.travellers.get(player);
  if (travel.step !== "boarding" || traveller === undefined || traveller.arrived) return nothingToDo;
  const { room, run } = travel;
  const arrived: TravelEvent = { kind: "travel.arrived", room, run, player };
  return accept([arrived, ...completionIf(travel, state.rooms.byId.get(room), { arrives: player })]);
}

/** Somebody comes after the others. */
export function follow({ state }: RoomsContext, run: string, player: PlayerId): Decision {
  const room = state.rooms.byId.get(state.players.byId.get(player)?.room ?? "");
  if (room === undefined || runOf(room) !== run || room.members.get(player)?.aboard !== false) return nothingToDo;
  return accept([{ kind: "travel.followed", room: room.id, run, player }]);
}

/** The barrier opens, if it does with what is about to happen. */
export function completionIf(travel: Travel, room: Room | undefined, soon: Soon = {}): TravelEvent[] {
  return isComplete(travel, room, soon) ? completion(travel, soon) : [];
}

/** The barrier opens, with whoever is there. */
export function completion(travel: Travel, soon: Soon = {}): TravelEvent[] {
  const { room, run, destination, stragglers } = travel;
  if (destination === null) return [];
  const { missing } = tally(travel, soon);
  const behind = missing.length === 0 ? {} : stragglers === "drop" ? { late: missing } : { without: missing };
  return [{ kind: "travel.completed", room, run, destination, ...behind }];
}

/** The next destination that the room kind allows, or none: then the room is back where it was. */
export function forfeit({ rules, at }: RoomsContext, travel: Travel, code: ProblemCode, why: string): Decision {
  const { room, run } = travel;
  const by = travel.options[travel.option + 1];
  if (by === undefined) return fail(travel, code, why);
  return accept([{ kind: "travel.rerouted", room, run, by, code, why, deadlineMs: at + rules.travel.prepareMs }]);
}

export function fail(
  { room, run }: Travel,
  code: ProblemCode,
  detail: string,
  aborted?: { readonly by: PlayerId | null },
): Decision<Revised> {
  return accept([{ kind: "travel.failed", room, run, code, detail, ...(aborted && { aborted }) }], {
    reply: revisionReply(room),
  });
}
