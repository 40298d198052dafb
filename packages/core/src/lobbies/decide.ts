import type { ConfigName, PlayerId, Presence } from "@yellow-harbor/protocol";
import { accept, assertNever, type Decision, type Moment, nothingToDo } from "../harbor/decision.ts";
import type { LobbyCommand } from "./commands.ts";

export function decideLobby(moment: Moment, command: LobbyCommand): Decision {
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

function changePresence({ state }: Moment, lobby: ConfigName, player: PlayerId, presence: Presence): Decision {
  const stander = state.lobbies.byId.get(lobby)?.standing.get(player);
  if (stander === undefined || stander.presence === presence) return nothingToDo;
  return accept([{ kind: "lobby.presence-changed", lobby, player, presence }]);
}
