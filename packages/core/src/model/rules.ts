import type { Attributes, ConfigName, DestinationKind, SpreadShape } from "@yellow-harbor/protocol";
import type { PlanRules } from "../planning/plan.ts";
import type { QueueRules } from "./queues/rules.ts";
import type { RoomWays } from "./rooms/ways.ts";

/** The part of the configuration that decisions are made by. Only `decide` reads it: what `apply` needs is in the event. */
export interface HarborRules {
  readonly harbor: ConfigName;
  readonly players: {
    /** Most players known at once, those away included. */
    readonly limit: number;
    /** Builds of game clients that are let in. */
    readonly builds: readonly string[];
    /** How long a lost player without a room is waited for. */
    readonly graceMs: number;
  };
  /** In order; the first is where a player stands who names none. */
  readonly lobbies: ReadonlyMap<ConfigName, LobbyRules>;
  readonly roomKinds: ReadonlyMap<ConfigName, RoomKindRules>;
  readonly queues: ReadonlyMap<ConfigName, QueueRules>;
  readonly levels: ReadonlyMap<ConfigName, LevelRules>;
  readonly pools: ReadonlyMap<ConfigName, PoolRules>;
  readonly machines: ReadonlyMap<ConfigName, MachineRules>;
  readonly travel: {
    /** From the call until the address is told. */
    readonly prepareMs: number;
    /** From the address until everybody has arrived. */
    readonly boardMs: number;
    /** How many instances are tried for one travel. */
    readonly attempts: number;
  };
}

export interface LobbyRules {
  readonly title: string;
  /** Room kinds that may be opened here; the first is taken when none is named. */
  readonly roomKinds: readonly ConfigName[];
  /** What `room.seek` prefers, the most important first. */
  readonly seekBy: readonly SeekPreference[];
  /** With more players than this the lobby is told in numbers, without names. */
  readonly namesUpTo: number;
  /** Whether people may talk in it, and how often each. */
  readonly talk: { readonly perSecond: number } | null;
}

/** places: fewest free ones first; latency: lowest median first; age: oldest first. */
export type SeekPreference = "places" | "latency" | "age";

export interface RoomKindRules extends RoomWays {
  readonly capacity: { readonly least: number; readonly most: number; readonly preset: number };
  readonly levels: readonly ConfigName[];
  /** Limits of a room's board: entries, bytes of JSON of each, bytes of all together. */
  readonly board: { readonly entries: number; readonly bytes: number; readonly totalBytes: number };
  /** Limits of what a member may pass to the others: messages a second on average, bytes of each body. */
  readonly relay: { readonly perSecond: number; readonly bytes: number };
}

export interface LevelRules {
  readonly title: string;
  /** Players the level suits. */
  readonly least: number;
  readonly most: number;
  /** Whose instances run it; null when none does. */
  readonly pool: ConfigName | null;
  /** Kinds of destination it can be played at; every one that the room kind has when null. */
  readonly destinations: readonly DestinationKind[] | null;
  /** What the game itself keeps about it. */
  readonly attributes: Attributes | null;
  /** How its players are spread when they appear, and how far from each other. */
  readonly spread: { readonly shape: SpreadShape; readonly gap: number } | null;
}

export interface PoolRules {
  /** Build line whose command is started. */
  readonly build: ConfigName;
  /** Machines that its instances run on. */
  readonly machines: readonly ConfigName[];
  /** Host that players reach the instances at; the machine's own when null. */
  readonly host: string | null;
  readonly ports: { readonly from: number; readonly to: number };
  /** Most instances at once. */
  readonly most: number;
  /** From the order until the instance has announced itself and was reached. */
  readonly bootMs: number;
  /** From the polite order to stop until it is signalled, and from the signal until it is killed. */
  readonly stopMs: number;
  /** How long one that drains may go on for those who are in it. */
  readonly drainMs: number;
  /** After so long without a pulse an instance counts as failed. */
  readonly silenceMs: number;
  /** How long a port rests after its instance has ended. */
  readonly portRestMs: number;
  /** How long an ended instance stays in view. */
  readonly forgetMs: number;
  /** How many are kept ready; null to start one only when a room asks. */
  readonly plan: PlanRules | null;
  /** Whom an instance serves: one room until that lets go of it, or any room after the other. */
  readonly reuse: "room" | "any";
  /** Price of each of its instances, by the second; null when none is known. */
  readonly pricePerS: number | null;
}

/** A computer that runs instances. */
export interface MachineRules {
  /** How it is reached: its processes are started here, it is a simulated one, or an agent runs on it. */
  readonly driver: "process" | "simulated" | "agent";
  /** Where it stands, for players' latencies. */
  readonly region: string | null;
  /** Host that players reach its instances at. */
  readonly host: string;
  /** Most instances of all pools on it. */
  readonly most: number;
  /** Price of a second in which it runs at least one; null when none is known. */
  readonly pricePerS: number | null;
}
