import type {
  LevelList,
  LobbyList,
  PlayerHistory,
  PlayerView,
  RegionList,
  RelationsView,
  ReportList,
  SetRelations,
} from "@yellow-harbor/protocol";
import { RoomOperationsClient } from "./room-operations-client.ts";

/** What a game's own back end says of players, and where they may be. */
export class PlayerOperationsClient extends RoomOperationsClient {
  /** Regions in which matches are played, with where players measure their latency. */
  regions(): Promise<RegionList> {
    return this.http.call("regions");
  }

  lobbies(): Promise<LobbyList> {
    return this.http.call("lobbies");
  }

  /** What players told of each other's conduct, the newest first; of one player, by id or account, with `about`. */
  reports(query: { limit?: number; about?: string } = {}): Promise<ReportList> {
    return this.http.call("reports", { query });
  }

  levels(): Promise<LevelList> {
    return this.http.call("levels");
  }

  /** Moves a player who is in a lobby, and neither searches nor is in a party, to another lobby. */
  moveToLobby(player: string, lobby: string): Promise<PlayerView> {
    return this.http.call("moveToLobby", { params: { player }, body: { lobby } });
  }

  /** What a player did and what happened to it, newest last, and what it was refused lately. */
  playerHistory(player: string, asked: { story?: number; before?: number } = {}): Promise<PlayerHistory> {
    return this.http.call("playerHistory", { params: { player }, query: asked });
  }

  /** Whom a player, by id or account, knows and has blocked. */
  relations(player: string): Promise<RelationsView> {
    return this.http.call("relations", { params: { player } });
  }

  /** Says whom it knows, or has blocked; what is left out stays. */
  setRelations(player: string, set: SetRelations): Promise<RelationsView> {
    return this.http.call("setRelations", { params: { player }, body: set });
  }
}
