import type {
  Address,
  ConfigName,
  InstanceId,
  MatchAssignment,
  MatchPlayer,
  PassId,
  PlayerId,
  RoomId,
  RunId,
  SideStanding,
  Standing,
} from "@yellow-harbor/protocol";
import type { Capacity, Difference, MatchChange, Needs } from "./state.ts";

export type PoolEvent = { readonly instance: InstanceId } & (
  | {
      readonly kind: "instance.launched";
      readonly pool: ConfigName;
      readonly build: ConfigName;
      readonly version: string;
      readonly machine: ConfigName;
      readonly region: string | null;
      readonly address: Address;
      /** Ports beside its own, by purpose. */
      readonly ports: Readonly<Record<string, number>>;
      readonly capacity: Capacity;
      readonly isWatched: boolean;
      /** The level it is started for, where one is known. */
      readonly level: ConfigName | null;
      /** The room that it is launched for; absent when it is to be ready for whoever comes. */
      readonly room?: RoomId;
      readonly why: string;
      readonly bootByMs: number;
      readonly stopMs: number;
      readonly portRestMs: number;
      readonly forgetMs: number;
      readonly drainMs: number;
      /** Longest run, and longest time without anybody in a match, as its build says. */
      readonly runMs?: number;
      readonly emptyMs?: number;
      /** Build of the clients that it alone is for. */
      readonly client?: string;
      /** What it takes of its machine, where its build says so. */
      readonly needs?: Needs;
      /** Why it runs on this machine, where its pool has several. */
      readonly placed?: string;
    }
  | { readonly kind: "instance.allocated"; readonly room: RoomId; readonly run: RunId; readonly why: string }
  /** It takes no new room: it stops once nobody holds it, or at that time. Until then it may be reclaimed. */
  | { readonly kind: "instance.draining"; readonly why: string; readonly untilMs: number }
  | { readonly kind: "instance.reclaimed"; readonly why: string }
  /** What it has printed was looked at up to here. */
  | { readonly kind: "instance.output-read"; readonly stream: "out" | "err"; readonly upTo: number }
  /** Its word about who is there is not ours; null once they agree again. */
  | { readonly kind: "instance.differed"; readonly player: string; readonly what: Difference["what"] | null }
  /** Its room has let go of it, and it is there for the next. */
  | { readonly kind: "instance.returned"; readonly room: RoomId; readonly reason: string }
  | { readonly kind: "instance.booting"; readonly pid: number }
  | { readonly kind: "instance.announced"; readonly pid?: number }
  | { readonly kind: "instance.opened"; readonly detail: string }
  | {
      readonly kind: "instance.assigned";
      readonly number: number;
      readonly match: MatchAssignment;
      /** Pass id by player. */
      readonly passes: Readonly<Record<PlayerId, PassId>>;
    }
  | {
      readonly kind: "instance.berth-added";
      readonly number: number;
      readonly run: RunId;
      readonly room: RoomId;
      readonly player: MatchPlayer;
      readonly pass: PassId;
      readonly expiresAtMs: number;
      /** It looks on. */
      readonly spectator?: { readonly delayMs: number };
    }
  | {
      readonly kind: "instance.match-started";
      readonly number: number;
      readonly run: RunId;
      readonly without: readonly PlayerId[];
    }
  | { readonly kind: "instance.match-ended"; readonly number: number; readonly run: RunId; readonly reason: string }
  | { readonly kind: "instance.acknowledged"; readonly acknowledged: number }
  | {
      readonly kind: "instance.boarded";
      readonly player: PlayerId;
      readonly name: string;
      readonly run: RunId;
      readonly attempt?: string;
    }
  | {
      readonly kind: "instance.unboarded";
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: "left" | "lost" | "kicked" | "left-room" | "never-came" | "not-there";
      /** Number of the instruction that tells the instance, when it was not the instance that said so. */
      readonly number?: number;
      /** Absent in journals from when an instance ran one match at a time. */
      readonly run?: RunId;
      /** The instance has removed it from the match, and so from its room. */
      readonly kick?: { readonly room: RoomId; readonly why?: string; readonly ban: boolean };
    }
  /** What it printed says so. */
  | { readonly kind: "instance.scored"; readonly player: PlayerId; readonly run: RunId; readonly score: number }
  | {
      readonly kind: "instance.reported";
      readonly room: RoomId;
      readonly run: RunId;
      readonly standings: readonly Standing[];
      readonly sides?: readonly SideStanding[];
      readonly payload?: unknown;
      readonly note?: string;
    }
  /** Something of the match is other than the instance was told. */
  | {
      readonly kind: "instance.match-changed";
      readonly number: number;
      readonly run: RunId;
      readonly changed: MatchChange;
    }
  | {
      readonly kind: "instance.stop-requested";
      readonly number: number;
      readonly reason: string;
      readonly stopByMs: number;
      /** Rooms that lose it by that. */
      readonly rooms?: readonly RoomId[];
    }
  | {
      readonly kind: "instance.stop-forced";
      readonly how: "terminate" | "kill";
      readonly killByMs: number | null;
    }
  | { readonly kind: "instance.exiting"; readonly reason: string }
  | {
      readonly kind: "instance.failed";
      readonly why: string;
      readonly rooms: readonly RoomId[];
      readonly neverOpen?: true;
    }
  | {
      readonly kind: "instance.exited";
      readonly state: "ended" | "failed";
      readonly why: string;
      readonly exitCode: number | null;
      readonly signal: string | null;
      readonly rooms: readonly RoomId[];
      readonly portFreeAtMs: number;
      /** It has failed just now: nothing was said of that before. */
      readonly first?: true;
      /** It failed before it was open. */
      readonly neverOpen?: true;
      /** It was not started, since somebody else listens on a port of its; another has another. */
      readonly portTaken?: true;
    }
  | { readonly kind: "instance.forgotten" }
);
