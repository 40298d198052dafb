import type { PlayerId } from "@yellow-harbor/protocol";
import { lobbies } from "../lobbies/index.ts";
import type { WelcomeState } from "../model/replies.ts";
import type { RoomsPart } from "../model/state.ts";
import { parties } from "../parties/index.ts";
import { privateEntries } from "../private-entries/index.ts";
import { rooms } from "../rooms/index.ts";
import { travel } from "../travel/index.ts";

/** With what has befallen it since a revision, or since it was lost. */
export function stateFor(
  state: RoomsPart,
  id: PlayerId,
  { resumed, heard }: { readonly resumed: boolean; readonly heard?: number | undefined },
): WelcomeState {
  const player = state.players.byId.get(id);
  if (player === undefined) throw new Error(`view for unknown player ${id}`);
  const { name, identity } = player;
  const revision = player.own?.revision ?? 0;
  const who = {
    player: { id, name, ...(identity && { account: identity.account }), revision },
    resumed,
    resumeNumber: player.resume.given,
  };
  const since = heard ?? player.own?.told ?? 0;
  const unheard = player.own?.lately.filter(({ revision }) => revision > since) ?? [];
  const invitations = rooms.views.invitations(state, id);
  const party = parties.views.ofPlayer(state, id);
  const partyInvitations = parties.views.invitations(state, id);
  const missed = {
    ...(unheard.length > 0 && { missed: unheard }),
    ...(invitations.length > 0 && { invitations }),
    ...(party && { party }),
    ...(partyInvitations.length > 0 && { partyInvitations }),
  };
  const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
  if (room === undefined) {
    const ticket = state.seen.queues.ticketOf(id);
    return {
      ...who,
      lobby: lobbies.views.lobby(state, player.lobby),
      ...missed,
      ...(ticket && { ticket }),
    };
  }
  const pass = travel.views.owedPass(state, room.id, id);
  const shown = privateEntries.views.seenBy(state, room.id, id);
  return {
    ...who,
    room: rooms.views.room(state, room),
    ...missed,
    ...(shown.length > 0 && { privateEntries: shown }),
    ...(pass && { pass }),
  };
}
