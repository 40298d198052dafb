import type { ConfigName, PlayerId, Presence } from "@yellow-harbor/protocol";
import { accept, assertNever, type Decision, nothingToDo, type RoomsMoment } from "../model/decision.ts";
import type { LobbyCommand } from "../model/lobbies/commands.ts";
import { countsOf } from "./view.ts";

/** A crowded lobby is told by name again only well below the limit, or it would go back and forth. */
const CALM_SHARE = 0.8;

export function decideLobby(moment: RoomsMoment, command: LobbyCommand): Decision {
  if (command.do === "lobby.tally") return tally(moment, command.lobby);
  const { lobby, player } = command;
  const stands = moment.state.lobbies.byId.get(lobby)?.standing.has(player) ?? false;
  switch (command.do) {
    case "lobby.stand": {
      if (stands) return nothingToDo;
      const { name, presence, because } = command;
      return accept([{ kind: "lobby.stood", lobby, player, name, presence, ...(because && { because }) }]);
    }
    case "lobby.step-out":
      return stands ? accept([{ kind: "lobby.stepped-out", lobby, player, reason: command.reason }]) : nothingToDo;
    case "lobby.mark-away":
      return changePresence(moment, lobby, player, "away");
    case "lobby.mark-back":
      return changePresence(moment, lobby, player, "here");
    default:
      return assertNever(command);
  }
}

function changePresence({ state }: RoomsMoment, lobby: ConfigName, player: PlayerId, presence: Presence): Decision {
  const stander = state.lobbies.byId.get(lobby)?.standing.get(player);
  if (stander === undefined || stander.presence === presence) return nothingToDo;
  return accept([{ kind: "lobby.presence-changed", lobby, player, presence }]);
}

function tally({ state, rules }: RoomsMoment, id: ConfigName): Decision {
  const lobby = state.lobbies.byId.get(id);
  if (lobby === undefined) return nothingToDo;
  const most = rules.lobbies.get(id)?.namesUpTo ?? 0;
  const crowded = lobby.standing.size > (lobby.crowded ? most * CALM_SHARE : most);
  return accept([{ kind: "lobby.tallied", lobby: id, counts: countsOf(lobby), crowded, was: lobby.crowded }]);
}
