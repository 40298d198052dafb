import type {
  AccountId,
  Attention,
  BoardKey,
  ConfigName,
  EchoUrl,
  LevelView,
  OnLeave,
  PlayerAttributes,
  PlayerId,
  Presence,
  ResultView,
  RoomId,
  RoomPolicy,
  RunId,
  SetbackView,
  Settings,
  SideName,
  SpreadPlan,
  Visibility,
} from "@yellow-harbor/protocol";
import type { Destination } from "../destination.ts";
import type { Latency } from "../latency.ts";
import type { Reservations } from "./reservations.ts";

export interface Member {
  readonly id: PlayerId;
  readonly name: string;
  /** Kept for as long as the member stays, unless it takes another; the lowest free one is given first. */
  place: number;
  /** Null where the room kind has no sides. */
  side: SideName | null;
  /** What it was matched for, where its queue has a line-up. */
  readonly role?: string;
  /** Since when it has done nothing, where the room kind looks after that, and until when it may answer. */
  idle?: { readonly sinceMs: number; readonly askedUntilMs: number | null };
  /** What it brings; absent when there is nothing. */
  attributes?: PlayerAttributes;
  /** What it has said for this room alone. */
  own?: PlayerAttributes;
  /** Round trips to other members, as it has told. */
  peersMs?: Readonly<Record<PlayerId, number>>;
  ready: boolean;
  presence: Presence;
  awaySinceMs: number | null;
  awayUntilMs: number | null;
  latency: Latency | null;
  /** With whom it offers to change place and side. */
  swapWith: PlayerId | null;
  /** Null while its game is in front and answers. */
  attention: Attention | null;
  /** Whether it has arrived in the level of the run. */
  aboard: boolean;
  /** The level it is for, where levels are voted for. */
  vote: ConfigName | null;
}

/** A player who looks on. */
export interface Spectator {
  readonly id: PlayerId;
  readonly name: string;
  /** Of the spectators' own places. */
  readonly place: number;
  readonly presence: Presence;
  readonly awayUntilMs: number | null;
}

/** The runs of a room counted together. */
export interface Series {
  readonly played: number;
  /** How often sides were swapped: teams are named by the side on which they began. */
  readonly swaps: number;
  /** By team, or by player where the room has no sides. */
  readonly wins: Readonly<Record<string, number>>;
  readonly totals: Readonly<Record<PlayerId, number>>;
  readonly over: boolean;
}

export interface BoardEntry {
  readonly value: unknown;
  /** Bytes of the value as JSON. */
  readonly size: number;
  owner: PlayerId;
  revision: number;
  readonly onLeave: OnLeave;
}

export interface Turn {
  holder: PlayerId;
  number: number;
  /** Longest turn. */
  limitMs: number | null;
  endsAtMs: number | null;
}

export type Stage = Gathering | Counting | Travelling | Playing | ShowingResults;

export interface Gathering {
  readonly phase: "gathering";
}

export interface Counting {
  readonly phase: "counting";
  /** When the travel starts. */
  readonly startsAtMs: number;
}

/** What a room has from the start of a run to its end. */
interface OnRun {
  readonly run: RunId;
  /** How its members are spread in the level. */
  readonly spread: SpreadPlan | null;
  /** How often in a row the run has been begun anew since its place was lost. */
  readonly moves: number;
}

export interface Travelling extends OnRun {
  readonly phase: "travelling";
  /** Where it was before: where it goes back to when the travel is given up. */
  readonly cameFrom: "gathering" | "results";
}

export interface Playing extends OnRun {
  readonly phase: "playing";
  readonly destination: Destination;
}

export interface ShowingResults {
  readonly phase: "results";
  /** When it gathers again. */
  readonly gathersAtMs: number;
}

/** The run under way, or null. */
export const runOf = (room: Pick<Room, "stage"> | undefined): RunId | null =>
  room !== undefined && "run" in room.stage ? room.stage.run : null;

/** All who hold the state of a room: members and spectators. */
export const audienceOf = ({ members, spectators }: Pick<Room, "members" | "spectators">): PlayerId[] =>
  spectators.size === 0 ? [...members.keys()] : [...members.keys(), ...spectators.keys()];

/** Where the run is played, once it is. */
export const placeOf = ({ stage }: Pick<Room, "stage">): Destination | null =>
  stage.phase === "playing" ? stage.destination : null;

/** By what somebody who was banned is known again: its account, or as a guest the network it came from. */
export interface BanMark {
  readonly account: AccountId | null;
  readonly origin: string | null;
}

export interface Room {
  readonly id: RoomId;
  readonly code: string;
  name: string;
  readonly lobby: ConfigName;
  readonly kind: ConfigName;
  /** Build of the one who opened it. Empty in one that an operator has opened for any: the first to join gives it. */
  build: string;
  readonly policy: RoomPolicy;
  capacity: number;
  visibility: Visibility;
  /** In which it plays on instances; absent for any. */
  readonly region?: ConfigName;
  /** Where the world of a member answers echoes. It is told while that is the host. */
  echo?: { readonly player: PlayerId; readonly url: EchoUrl };
  /** As the service keeps it; absent when it has none. Whoever says the right one comes with just this. */
  password?: string;
  settings: Settings;
  settingsRevision: number;
  /** Players who are banned from the room. */
  readonly banned: Map<PlayerId, BanMark>;
  /** Places that are kept for somebody. */
  reservations: Reservations;
  /** How long it stays open although nobody has come yet, in one that an operator has opened; null from then on. */
  keptUntilMs: number | null;
  readonly openedAtMs: number;
  revision: number;
  /** The phase, with what a room has in that phase alone. */
  stage: Stage;
  /** Null exactly while nobody is in it. */
  host: PlayerId | null;
  /** In the order in which they joined. */
  readonly members: Map<PlayerId, Member>;
  /** Who looks on, none of whom is a member. */
  readonly spectators: Map<PlayerId, Spectator>;
  /** What the members share: state, not messages, so that newcomers have it too. */
  readonly board: Map<BoardKey, BoardEntry>;
  turn: Turn | null;
  level: LevelView | null;
  result: ResultView | null;
  /** Null before the first result, and where there is none. */
  series: Series | null;
  setback: SetbackView | null;
  /** Where the index of open rooms has it, or null. */
  indexed: { readonly shelf: string; readonly free: number } | null;
}

/** A request that has opened a room. */
export interface OpeningRequest {
  readonly room: RoomId;
  readonly code: string;
  /** Of what was asked: another request must not have the same key. */
  readonly fingerprint: string;
}

export interface RoomsState {
  readonly byId: Map<RoomId, Room>;
  readonly byCode: Map<string, RoomId>;
  /** Listed rooms by lobby and name. */
  readonly byName: Map<string, Set<RoomId>>;
  /** Rooms that take somebody in: by lobby, kind and level, then by free places. */
  readonly open: Map<string, Map<number, Set<RoomId>>>;
  /** Each policy that rooms were opened with, once, frozen, by its text: thousands of rooms share a few. */
  readonly policies: Map<string, RoomPolicy>;
  /** Rooms that keep a place, by whom they keep it for. */
  readonly keptFor: Map<string, Set<RoomId>>;
  /** Requests by which operators have opened rooms, by the key they gave, newest last: the same one opens no other. */
  readonly requests: Map<string, OpeningRequest>;
  /** Number of the last code given out; the next room's code is made from it. */
  opened: number;
}

export function newRoomsState(): RoomsState {
  return {
    byId: new Map(),
    byCode: new Map(),
    byName: new Map(),
    open: new Map(),
    policies: new Map(),
    keptFor: new Map(),
    requests: new Map(),
    opened: 0,
  };
}
