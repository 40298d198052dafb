import type { Exported } from "../model/capability.ts";
import type { LobbyCommand } from "../model/lobbies/commands.ts";
import type { LobbyEvent } from "../model/lobbies/events.ts";
import { newLobbiesState } from "../model/lobbies/state.ts";
import {
  addRoomToLobby,
  applyLobby,
  countInRooms,
  countSearching,
  markPlayersAway,
  removeRoomFromLobby,
} from "./apply.ts";
import { decideLobby } from "./decide.ts";
import { lobbyViolations } from "./invariants.ts";
import { lobbyPushes, lobbySummary, lobbyView } from "./view.ts";

/** Where players stand who are in no room. */
export const lobbies = {
  names: ["lobby"],
  newState: () => ({ lobbies: newLobbiesState() }),
  decide: decideLobby,
  apply: applyLobby,
  deliveries: lobbyPushes,
  touches: (_state, { kind, lobby }) => (kind === "lobby.tallied" ? {} : { lobby }),
  due: { "lobby-tally": (lobby) => ({ do: "lobby.tally", lobby }) },
  invariants: lobbyViolations,
  /** What changes with an event of another capability. */
  also: {
    addRoom: addRoomToLobby,
    removeRoom: removeRoomFromLobby,
    countInRooms,
    countSearching,
    markAllAway: markPlayersAway,
  },
  views: { lobby: lobbyView, summary: lobbySummary },
} satisfies Exported<LobbyCommand, LobbyEvent>;
