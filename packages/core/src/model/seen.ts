import type { ConfigName, PlayerId, ResultView, RoomId, RoomView, RunId, TicketView } from "@yellow-harbor/protocol";
import type { Party } from "./parties/state.ts";
import type { Player } from "./players/state.ts";
import type { Instance, OwedPass } from "./pools/state.ts";
import type { Room } from "./rooms/state.ts";
import type { HarborRules } from "./rules.ts";
import type { Travel } from "./travel/state.ts";

/*
 * Players, lobbies, rooms and travels know each other. Queues are one part by themselves, and instances with their
 * machines, builds and plans another. What a part may know of the others is said here and nowhere else: each may one day
 * be in another harbor than the others, and is then told just this.
 */

export type PlayerSeen = Readonly<
  Pick<Player, "id" | "name" | "build" | "lobby" | "presence" | "room" | "identity" | "attributes">
>;

export type RoomSeen = Readonly<
  Pick<
    Room,
    | "id"
    | "code"
    | "kind"
    | "build"
    | "capacity"
    | "level"
    | "stage"
    | "policy"
    | "host"
    | "members"
    | "spectators"
    | "reservations"
    | "revision"
    | "settings"
    | "region"
  >
>;

export type PartySeen = Readonly<Pick<Party, "id" | "leader" | "members">>;

export type TravelSeen = Readonly<Pick<Travel, "step" | "deadlineMs">>;

/** What queues and pools see of those who gather and travel. */
export interface RoomsSeen {
  player(id: PlayerId): PlayerSeen | undefined;
  room(id: RoomId): RoomSeen | undefined;
  /** The party that a player is in. */
  partyOf(id: PlayerId): PartySeen | undefined;
  travel(run: RunId): TravelSeen | undefined;
  /** Levels of the rooms that count down. */
  countingDown(): readonly ConfigName[];
  /** The result that a run had, while its room shows it. */
  resultOf(run: RunId): ResultView | undefined;
  /** The pass that a member may still use. */
  owedPass(room: RoomId, player: PlayerId): OwedPass | undefined;
}

/** What rooms and pools see of queues. */
export interface QueuesSeen {
  isSearching(player: PlayerId): boolean;
  /** The search that a player takes part in. */
  ticketOf(player: PlayerId): TicketView | undefined;
  /** Players who search in the queues of a lobby. */
  searchingIn(lobby: ConfigName): number;
  /** Whether a room asks for players. */
  backfillOf(room: RoomId): RoomView["backfill"];
  /** Where the match that became a room may be played, the best first; undefined when that is nobody's concern. */
  regionsOf(room: RoomId): readonly string[] | undefined;
  /** Queues of the matches whose players are asked and that will need a room, one for each. */
  confirming(): readonly ConfigName[];
}

/** What rooms and queues see of instances. */
export interface PoolsSeen {
  instance(id: string): Instance | undefined;
  /** The instance that a room holds. */
  heldBy(room: RoomId): Instance | undefined;
  /** How many more rooms a pool takes. */
  vacancyOf(rules: HarborRules, pool: ConfigName, at: number): Vacancy;
  /** Why it takes none, in all or in a region, as the end of a sentence. */
  whyFull(
    rules: HarborRules,
    asked: { readonly pool: ConfigName; readonly region: string | undefined; readonly at: number },
  ): string;
}

/** Rooms that a pool takes. */
export interface Vacancy {
  readonly all: number;
  /** By the region of the machines, under null on those that name none. Together they may be more than all. */
  readonly byRegion: ReadonlyMap<string | null, number>;
}

export interface Seen {
  readonly rooms: RoomsSeen;
  readonly queues: QueuesSeen;
  readonly pools: PoolsSeen;
}
