import type { ConfigName, LobbyRules, PartyId, PlayerId, Presence, ReservedFor, RoomId } from "@yellow-harbor/protocol";
import type { MatchAttributes } from "../../matching/rules.ts";

/** What a member brings to searches of the party. */
export interface Brought {
  readonly attributes: MatchAttributes;
  readonly latencyMs: Readonly<Record<string, number>>;
}

export interface PartyMember {
  readonly id: PlayerId;
  readonly name: string;
  /** Whether it goes along with the leader. */
  readonly follows: boolean;
  readonly brings: Brought;
  /** As its party was told last. */
  readonly presence: Presence;
  readonly room: { readonly id: RoomId; readonly code: string } | null;
}

export interface PartyInvitation {
  readonly for: ReservedFor;
  /** Null for an account, of which nothing is told. */
  readonly name: string | null;
  readonly by: { readonly id: PlayerId; readonly name: string };
  readonly untilMs: number;
}

/** The rules of the lobby as they were when the party was founded. */
export type PartyPolicy = LobbyRules["party"];

export interface Party {
  readonly id: PartyId;
  readonly code: string;
  readonly lobby: ConfigName;
  readonly policy: PartyPolicy;
  readonly sinceMs: number;
  leader: PlayerId;
  /** Since when the leader is away; null while it is here. */
  leaderAwaySinceMs: number | null;
  /** In the order in which they came; never empty. */
  readonly members: Map<PlayerId, PartyMember>;
  /** By whom they are for. */
  readonly invitations: Map<string, PartyInvitation>;
}

export interface PartiesState {
  readonly byId: Map<PartyId, Party>;
  readonly byCode: Map<string, PartyId>;
  readonly byPlayer: Map<PlayerId, PartyId>;
  /** Parties that invite somebody, by whom. */
  readonly invitedTo: Map<string, Set<PartyId>>;
}

export function newPartiesState(): PartiesState {
  return { byId: new Map(), byCode: new Map(), byPlayer: new Map(), invitedTo: new Map() };
}
