import { type Refusal, refuse } from "../../model/decision.ts";
import type { PartyEvent } from "../../model/parties/events.ts";
import type { Player } from "../../model/players/state.ts";
import { openPlaces, reservationOf } from "../../model/rooms/reservations.ts";
import { sideSizes } from "../../model/rooms/sides.ts";
import { type Room, runOf } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { obstacles } from "../start/obstacles.ts";

/** Those of a leader's party who go along into a room, and what is to happen for it. */
export interface Companions {
  readonly players: readonly Player[];
  /** That they are called, once the room is there. */
  called(room: string): readonly PartyEvent[];
}

const NOBODY: Companions = { players: [], called: () => [] };

/**
 * Who comes along with a player into a room: where it leads a party, those who follow and are here, in the lobby or in the room
 * that it leaves. Nobody is taken out of a run.
 */
export function companionsOf(state: RoomsPart, leader: Player, alone: boolean | undefined): Companions {
  const party = state.parties.byId.get(state.parties.byPlayer.get(leader.id) ?? "");
  if (party === undefined || party.leader !== leader.id || alone) return NOBODY;
  const players = [...party.members.values()].flatMap(({ id, follows }) => {
    const player = state.players.byId.get(id);
    const comes = player !== undefined && id !== leader.id && follows && canCome(state, player, leader.room);
    return comes ? [player] : [];
  });
  if (players.length === 0) return NOBODY;
  const ids = players.map(({ id }) => id);
  return { players, called: (room) => [{ kind: "party.called", party: party.id, room, players: ids }] };
}

function canCome(state: RoomsPart, { presence, room }: Player, from: string | null): boolean {
  if (presence !== "here") return false;
  return room === null || (room === from && runOf(state.rooms.byId.get(room)) === null);
}

/** Why a party cannot all come into a room, as the start of a sentence; undefined when it can. */
export function whyApart(room: Room, leader: Player, companions: readonly Player[]): string | undefined {
  for (const one of companions) {
    const [first] = obstacles(room, one, { byCode: true, isTrusted: true });
    if (first !== undefined && first.code !== "room-full" && first.code !== "side-full") {
      return `${one.name} cannot come along: ${first.text.replace(/^You are/, "it is")}`;
    }
  }
  const coming = [leader, ...companions].filter((one) => reservationOf(room, one) === undefined).length;
  const free = Math.min(openPlaces(room), roomOnSides(room));
  if (coming <= free) return undefined;
  const names = companions.map(({ name }) => name).join(", ");
  return `Room ${room.code} has ${free} open ${free === 1 ? "place" : "places"}, and ${names} would come along`;
}

function roomOnSides(room: Room): number {
  const { sides } = room.policy;
  if (sides === null) return Number.POSITIVE_INFINITY;
  return [...sideSizes(room).values()].reduce((sum, size) => sum + Math.max(0, sides.max - size), 0);
}

export const partyApart = (why: string): Refusal =>
  refuse("party-does-not-fit", `${why}. Choose another room, or ask with alone: true.`);
