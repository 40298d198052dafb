export {
  addRoomToLobby,
  applyLobby,
  countInRooms,
  countSearching,
  markStandersAway,
  removeRoomFromLobby,
} from "./apply.ts";
export { decideLobby } from "./decide.ts";
export type { OutOfRoom } from "./events.ts";
export { lobbyFaults } from "./soundness.ts";
export { lobbyPushes, lobbySummary, lobbyView } from "./view.ts";
