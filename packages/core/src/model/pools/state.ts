import type {
  Address,
  ConfigName,
  InstanceId,
  InstanceState,
  Instruction,
  MatchPlayer,
  PassId,
  PlayerId,
  RoomId,
  RunId,
  Settings,
} from "@yellow-harbor/protocol";
import type { Berth } from "../berth.ts";

/** What of a match may become other while it is run. */
export interface MatchChange {
  readonly host?: PlayerId;
  readonly settings?: Settings;
  readonly players?: readonly MatchPlayer[];
}

export interface InstanceMatch {
  readonly room: RoomId;
  readonly run: RunId;
  readonly level: ConfigName;
  /** Number of the instruction by which the instance was told. */
  readonly instruction: number;
  readonly berths: Map<PlayerId, Berth>;
  /** What the instance was told of it last; absent for matches of before it was told of changes. */
  told?: Omit<MatchChange, "players"> & { readonly players: ReadonlyMap<PlayerId, MatchPlayer> };
  /** What it has printed of their scores. */
  readonly scores: Map<PlayerId, number>;
}

/** How much an instance takes: rooms and players at once, and one match after the other or only one. */
export interface Capacity {
  readonly rooms: number;
  readonly berths: number;
  readonly matches: "many" | "one";
}

/** The instance's word about a player that is not ours. */
export interface Difference {
  readonly what: "not-there" | "not-expected" | "never-said";
  readonly sinceMs: number;
}

/** CPUs and MiB of memory; 0 where nothing was said. */
export interface Needs {
  readonly cpus: number;
  readonly memoryMb: number;
}

export interface MachineLoad extends Needs {
  /** Instances by build line. */
  readonly lines: ReadonlyMap<ConfigName, number>;
}

export interface Instance {
  readonly id: InstanceId;
  readonly pool: ConfigName;
  /** Build line, and the version of it that it runs. */
  readonly build: ConfigName;
  readonly version: string;
  readonly machine: ConfigName;
  readonly region: string | null;
  readonly address: Address;
  /** Build of the clients that it alone is for, where its command line names that. */
  readonly client: string | null;
  /** Ports beside its own, by purpose. */
  readonly ports: Readonly<Record<string, number>>;
  readonly capacity: Capacity;
  readonly launchedAtMs: number;
  /** It knows nothing of us: what it prints is all there is. */
  readonly isWatched: boolean;
  /** Copied from the pool when it was launched. */
  readonly stopMs: number;
  readonly portRestMs: number;
  readonly forgetMs: number;
  readonly drainMs: number;
  readonly emptyMs: number | null;
  /** What it takes of its machine. */
  readonly needs: Needs;
  /** Why it runs on this machine, where its pool has several. */
  readonly placed: string | null;
  state: InstanceState;
  why: string;
  changedAtMs: number;
  pid: number | null;
  announced: boolean;
  /** The process that has announced itself, by its own word: a second one has no business with the key. */
  announcedPid: number | null;
  /** When its process was known to run, for the meter. */
  startedAtMs: number | null;
  /** Said goodbye: it exits by itself. */
  exiting: boolean;
  /** Was told to stop. One that drains and was not may still be reclaimed. */
  stopping: boolean;
  /** The process is known to be gone. */
  gone: boolean;
  /** The rooms that hold it, each with the match that is run for it now. */
  readonly holds: Map<RoomId, InstanceMatch | null>;
  readonly heldSinceMs: Map<RoomId, number>;
  /** The last runs that came to their end, the newest last. */
  lastRuns: readonly RunId[];
  /** Matches that came to their end. */
  played: number;
  /** Where the instance says otherwise than we, by player. */
  readonly differences: Map<string, Difference>;
  /** Bytes of what it prints on each stream that were looked at, when that is what it is watched by. */
  outputRead: Readonly<Record<"out" | "err", number>>;
  /** Orders not yet taken, oldest first. */
  instructions: Instruction[];
  instructionsGiven: number;
  instructionsAcknowledged: number;
  exitCode: number | null;
  signal: string | null;
}

/** Milliseconds that instances have run, of those that are gone; by pool, by build line and version, by room. */
export interface Meter {
  readonly byPool: Map<string, number>;
  readonly byBuild: Map<string, number>;
  /** Milliseconds in which a machine ran at least one, up to when it last ran none. */
  readonly byMachine: Map<string, number>;
  /** Since when a machine runs at least one. */
  readonly busySinceMs: Map<string, number>;
  /** Of the rooms that last held one. */
  readonly byRoom: Map<RoomId, number>;
}

export interface PoolsState {
  readonly instances: Map<InstanceId, Instance>;
  readonly byRoom: Map<RoomId, InstanceId>;
  /** Ports in use or at rest, by host: to the time from which each is free again, or null while in use. */
  readonly ports: Map<string, Map<number, number | null>>;
  /** The port that each pool gave last: the next is looked for behind it, so that each rests for as long as it can. */
  readonly lastPort: Map<ConfigName, number>;
  /** Instances on each machine whose process is not known to be gone. */
  readonly onMachine: Map<ConfigName, number>;
  /** Since when nothing runs on a machine on which something ran. */
  readonly idleSinceMs: Map<ConfigName, number>;
  /** What they take of it together. */
  readonly loads: Map<ConfigName, MachineLoad>;
  /** Instances of each pool whose process is not known to be gone. */
  readonly live: Map<ConfigName, number>;
  readonly meter: Meter;
}

export function newPoolsState(): PoolsState {
  const meter = {
    byPool: new Map(),
    byBuild: new Map(),
    byMachine: new Map(),
    busySinceMs: new Map(),
    byRoom: new Map(),
  };
  return {
    instances: new Map(),
    byRoom: new Map(),
    ports: new Map(),
    lastPort: new Map(),
    onMachine: new Map(),
    idleSinceMs: new Map(),
    loads: new Map(),
    live: new Map(),
    meter,
  };
}

/** All that goes into a boarding pass but the signature. */
export interface OwedPass {
  readonly pass: PassId;
  readonly player: PlayerId;
  readonly room: RoomId;
  readonly run: RunId;
  readonly level: ConfigName;
  /** Where it is shown: to an instance, or to the member who runs the world. */
  readonly to: { readonly instance: InstanceId } | { readonly player: PlayerId };
  readonly address: Address;
  readonly expiresAtMs: number;
}
