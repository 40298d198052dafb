import type {
  AccountId,
  ConfigName,
  Missed,
  PlayerAttributes,
  PlayerId,
  Presence,
  RoomId,
  SettingValue,
} from "@yellow-harbor/protocol";
import type { Latency } from "../latency.ts";

/** What has befallen one player alone, such as being kicked from its room: it is in no view, so the player must hear of it. */
export interface OwnFate {
  /** How often something has; the last of it has this number. */
  readonly revision: number;
  /** The last few, the oldest first. */
  readonly lately: readonly Missed[];
  /** Up to which it was told before it was lost last, for a client that does not say so itself. */
  readonly told: number;
}

/** Who somebody is, as the game's back end vouches for it, or as the key of a guest's device tells. */
export interface Identity {
  readonly account: AccountId;
  /** Such as moderator. */
  readonly roles: readonly string[];
  /** Attributes that the back end vouches for. */
  readonly vouched: Readonly<Record<string, SettingValue | readonly string[]>>;
}

/** Numbers of the resume tokens of a player. One that is older than one that was shown is worth nothing any more. */
export interface ResumeNumbers {
  readonly given: number;
  readonly shown: number;
}

export interface Player {
  readonly id: PlayerId;
  readonly name: string;
  readonly build: string;
  /** The lobby the player belongs to, also while in a room of it. */
  lobby: ConfigName;
  room: RoomId | null;
  presence: Presence;
  /** Number of the connection the player is here by; null while away. */
  connection: number | null;
  latency: Latency | null;
  /** null for a guest who keeps no device key. */
  identity: Identity | null;
  /** Stands for the network that a guest came from, without telling it. */
  readonly origin: string | null;
  resume: ResumeNumbers;
  /** Under what its name is kept where names are unique in the lobby. */
  uniqueName?: string;
  /** What it says of itself; absent while it has said nothing. */
  attributes?: PlayerAttributes;
  /** It wants to hear of no invitation. */
  invitesMuted?: boolean;
  /** But of those by its friends. */
  invitesOfFriends?: boolean;
  /** What has befallen it alone; absent while nothing has. */
  own?: OwnFate;
}

export interface PlayersState {
  readonly byId: Map<PlayerId, Player>;
  /** Players who have an account, by it. */
  readonly byAccount: Map<AccountId, PlayerId>;
  /** Names of lobbies in which they are unique: the lobby and the skeleton of the name. */
  readonly uniqueNames: Map<string, PlayerId>;
  /** Account tokens that are good for one use and were used, with when they end. In the order of their use. */
  readonly usedTokens: Map<string, number>;
  /** How many of them are here. */
  here: number;
}

export function newPlayersState(): PlayersState {
  return { byId: new Map(), byAccount: new Map(), uniqueNames: new Map(), usedTokens: new Map(), here: 0 };
}
