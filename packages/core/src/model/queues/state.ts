import type {
  AccountId,
  ConfigName,
  MatchId,
  PartyId,
  PlayerId,
  QueueMode,
  RoomId,
  TicketId,
} from "@yellow-harbor/protocol";
import type { MatchAttributes, MatchQuality, TicketNeed } from "../../matching/index.ts";

export interface TicketPlayer {
  readonly id: PlayerId;
  readonly name: string;
  readonly agreed: boolean;
  readonly attributes: MatchAttributes;
  readonly latencyMs: Readonly<Record<string, number>>;
}

/** One search by one party. */
export interface Ticket {
  readonly id: TicketId;
  readonly queue: ConfigName;
  /** Other queues that it searches in as well: the first match of any takes it. */
  readonly also?: readonly ConfigName[];
  readonly lobby: ConfigName;
  readonly leader: PlayerId;
  /** The party that searches; absent for one player, and for those who only search together. */
  readonly party?: PartyId;
  /** The leader first. */
  readonly players: readonly TicketPlayer[];
  readonly needs: readonly TicketNeed[];
  /** Since when it waits; null while members have still to agree. */
  readonly sinceMs: number | null;
  /** When the search, or the asking, ends; null for never. */
  readonly untilMs: number | null;
  /** Kept and not matched, while one of its players is away. */
  readonly held: boolean;
  /** The match that its players are asked about, and the queue that made it. */
  readonly asked?: MatchId;
  readonly askedIn?: ConfigName;
}

/** A match that was made. */
export interface MadeMatch {
  readonly id: MatchId;
  readonly queue: ConfigName;
  readonly atMs: number;
  readonly region: string | null;
  /** Where it may be played, the best first; empty where its queue looks at no latency. */
  readonly regions: readonly string[];
  readonly tickets: readonly Ticket[];
  readonly sides: readonly (readonly PlayerId[])[];
  /** The role that each player takes, where its queue has a line-up. */
  readonly roles?: Readonly<Record<PlayerId, string>>;
  readonly quality: MatchQuality;
  /** Who has left its room before it was played. */
  readonly gone: readonly PlayerId[];
  /** Once its room is open. */
  readonly room: RoomId | null;
  /** Until its room plays: what comes to nothing is undone. */
  readonly forming: boolean;
  /** While its players are asked whether they accept it. */
  readonly asking?: { readonly untilMs: number; readonly accepted: readonly PlayerId[] };
  /** The playing room that it fills up. */
  readonly into?: RoomId;
}

/** A room that a queue's match has become, for as long as it is open: what its queue has to know to fill it up. */
export interface MatchRoom {
  readonly room: RoomId;
  readonly queue: ConfigName;
  readonly region: string | null;
  /** Of the match, and of those who came after. */
  readonly tickets: readonly Ticket[];
  /** Players who came after. */
  readonly filled: number;
  /** Accounts of the players of the match, where leaving it costs something: who has gone for good is known no more. */
  readonly accounts?: Readonly<Record<PlayerId, AccountId>>;
}

/** A playing room that asks for players in the place of those who left. */
export interface Backfill {
  readonly room: RoomId;
  readonly queue: ConfigName;
  readonly sinceMs: number;
  readonly untilMs: number;
  /** Players it still takes. */
  readonly places: number;
  /** Found, and on the way in. */
  readonly match: MatchId | null;
}

/** For whom a search has to wait, since it let matches go. */
export interface SearchPause {
  readonly times: number;
  readonly untilMs: number;
}

export interface QueueState {
  readonly id: ConfigName;
  mode: QueueMode;
  readonly tickets: Set<TicketId>;
  /** Waits of the tickets that were matched last: players and milliseconds, one after the other. */
  waits: readonly number[];
  matches: number;
  /** Newest last. */
  recent: readonly MatchId[];
}

export interface QueuesState {
  readonly byName: Map<ConfigName, QueueState>;
  readonly tickets: Map<TicketId, Ticket>;
  readonly byPlayer: Map<PlayerId, TicketId>;
  /** Those that are forming, and a few of those before. */
  readonly matches: Map<MatchId, MadeMatch>;
  readonly byRoom: Map<RoomId, MatchId>;
  /** Where a queue does something about those who leave. */
  readonly rooms: Map<RoomId, MatchRoom>;
  readonly backfills: Map<RoomId, Backfill>;
  /** Where the rooms of matches may be played, the best first, for as long as they are open. */
  readonly regions: Map<RoomId, readonly string[]>;
  /** By account, or by player where it has none. */
  readonly pauses: Map<string, SearchPause>;
  /** The same for those who left matches that were being played. */
  readonly leavers: Map<string, SearchPause>;
}

export function newQueuesState(): QueuesState {
  return {
    byName: new Map(),
    tickets: new Map(),
    byPlayer: new Map(),
    matches: new Map(),
    byRoom: new Map(),
    rooms: new Map(),
    backfills: new Map(),
    regions: new Map(),
    pauses: new Map(),
    leavers: new Map(),
  };
}

/** Made when somebody first searches in it, or an operator first says something of it. */
export function queueOf(queues: QueuesState, id: ConfigName): QueueState {
  const known = queues.byName.get(id);
  if (known) return known;
  const queue: QueueState = { id, mode: "open", tickets: new Set(), waits: [], matches: 0, recent: [] };
  queues.byName.set(id, queue);
  return queue;
}

/** All queues that a ticket searches in. */
export const queuesOf = ({ queue, also }: Ticket): readonly ConfigName[] => (also ? [queue, ...also] : [queue]);

export const isSearching = (ticket: Ticket): ticket is Ticket & { readonly sinceMs: number } =>
  ticket.sinceMs !== null && !ticket.held && ticket.asked === undefined;
