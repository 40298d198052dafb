import type { ConfigName, PlayerId, Presence } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { LobbyCommand } from "../model/lobbies/commands.ts";
import type { RoomsPart } from "../model/state.ts";
import { countsOf } from "./view.ts";

/** A crowded lobby is told by name again only well below the limit, or it would go back and forth. */
const CALM_SHARE = 0.8;

type Doing<K extends LobbyCommand["do"]> = Extract<LobbyCommand, { do: K }>;

const isIn = ({ lobbies }: RoomsPart, lobby: ConfigName, player: PlayerId): boolean =>
  lobbies.byId.get(lobby)?.standing.has(player) ?? false;

export const decideLobby = decideBy<LobbyCommand, RoomsPart>({
  "lobby.join": join,
  "lobby.leave": ({ state }, { lobby, player, reason }) =>
    isIn(state, lobby, player) ? accept([{ kind: "lobby.left", lobby, player, reason }]) : nothingToDo,
  "lobby.mark-away": (context, { lobby, player }) => changePresence(context, lobby, player, "away"),
  "lobby.mark-back": (context, { lobby, player }) => changePresence(context, lobby, player, "here"),
  "lobby.tally": (context, { lobby }) => tally(context, lobby),
});

function join({ state }: RoomsContext, command: Doing<"lobby.join">): Decision {
  const { lobby, player, name, presence, because, moved } = command;
  if (isIn(state, lobby, player)) return nothingToDo;
  return accept([
    { kind: "lobby.joined", lobby, player, name, presence, ...(because && { because }), ...(moved && { moved }) },
  ]);
}

function changePresence({ state }: RoomsContext, lobby: ConfigName, player: PlayerId, presence: Presence): Decision {
  const known = state.lobbies.byId.get(lobby)?.standing.get(player);
  if (known === undefined || known.presence === presence) return nothingToDo;
  return accept([{ kind: "lobby.presence-changed", lobby, player, presence }]);
}

function tally({ state, rules }: RoomsContext, id: ConfigName): Decision {
  const lobby = state.lobbies.byId.get(id);
  if (lobby === undefined) return nothingToDo;
  const max = rules.lobbies.get(id)?.namesUpTo ?? 0;
  const crowded = lobby.standing.size > (lobby.crowded ? max * CALM_SHARE : max);
  return accept([{ kind: "lobby.tallied", lobby: id, counts: countsOf(lobby), crowded, was: lobby.crowded }]);
}
