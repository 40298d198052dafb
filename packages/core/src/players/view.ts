import type { LobbyView, Missed, PlayerId, RoomView, TicketView } from "@yellow-harbor/protocol";
import { lobbies } from "../lobbies/index.ts";
import type { OwedPass } from "../model/pools/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { rooms } from "../rooms/index.ts";
import { travel } from "../travel/index.ts";

/** The complete picture of what a player is in: exactly one of lobby and room, and the pass it may still use. */
export interface PlayerPicture extends Record<string, unknown> {
  readonly player: { readonly id: PlayerId; readonly name: string; readonly revision: number };
  readonly lobby?: LobbyView;
  readonly room?: RoomView;
  readonly pass?: OwedPass;
  readonly ticket?: TicketView;
  readonly missed?: readonly Missed[];
}

/** With what has befallen it since a revision, or since it was lost. */
export function pictureFor(state: RoomsPart, id: PlayerId, heard?: number): PlayerPicture {
  const player = state.players.byId.get(id);
  if (player === undefined) throw new Error(`picture for unknown player ${id}`);
  const who = { id, name: player.name, revision: player.own?.revision ?? 0 };
  const since = heard ?? player.own?.told ?? 0;
  const unheard = player.own?.lately.filter(({ revision }) => revision > since) ?? [];
  const missed = unheard.length > 0 && { missed: unheard };
  const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
  if (room === undefined) {
    const ticket = state.seen.queues.ticketOf(id);
    return {
      player: who,
      lobby: lobbies.views.lobby(state, player.lobby),
      ...missed,
      ...(ticket && { ticket }),
    };
  }
  const pass = travel.views.owedPass(state, room.id, id);
  return { player: who, room: rooms.views.room(state, room), ...missed, ...(pass && { pass }) };
}
