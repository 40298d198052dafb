import type {
  Address,
  BoardKey,
  ConfigName,
  InstanceId,
  LevelView,
  OnLeave,
  PlayerId,
  Presence,
  ResultView,
  RoomId,
  RunId,
  SetbackView,
  Visibility,
} from "@yellow-harbor/protocol";
import type { Entropy } from "../harbor/stamp.ts";

export interface Member {
  readonly id: PlayerId;
  readonly name: string;
  /** Stable for as long as the member stays; the lowest free one is given first. */
  readonly place: number;
  ready: boolean;
  presence: Presence;
  awayUntilMs: number | null;
}

export interface BoardEntry {
  readonly value: unknown;
  /** Bytes of the value as JSON. */
  readonly size: number;
  owner: PlayerId;
  revision: number;
  readonly onLeave: OnLeave;
}

export interface Room {
  readonly id: RoomId;
  readonly code: string;
  name: string;
  readonly lobby: ConfigName;
  readonly kind: ConfigName;
  capacity: number;
  visibility: Visibility;
  settingsRevision: number;
  /** Who was put out for good. */
  readonly banned: Set<PlayerId>;
  /** Copied from the room kind when it was opened: a room lives by the rules it was opened under. */
  readonly leastPlayers: number;
  readonly graceMs: number;
  readonly countdownMs: number;
  readonly autoStart: boolean;
  readonly openedAtMs: number;
  revision: number;
  phase: "gathering" | "counting" | "travelling" | "playing";
  /** While counting: when the travel starts. */
  startsAtMs: number | null;
  host: PlayerId;
  /** In the order in which they joined. */
  readonly members: Map<PlayerId, Member>;
  /** What the members share: state, not messages, so that newcomers have it too. */
  readonly board: Map<BoardKey, BoardEntry>;
  level: LevelView | null;
  /** The run under way. */
  run: RunId | null;
  destination: { readonly instance: InstanceId; readonly address: Address } | null;
  result: ResultView | null;
  setback: SetbackView | null;
}

export interface RoomsState {
  readonly byId: Map<RoomId, Room>;
  readonly byCode: Map<string, RoomId>;
  codeKey: Entropy;
  /** Rooms ever opened; the next room's code is made from it. */
  opened: number;
}

export function newRoomsState(): RoomsState {
  return { byId: new Map(), byCode: new Map(), codeKey: [0, 0, 0, 0], opened: 0 };
}
