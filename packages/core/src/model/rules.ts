import type {
  Attributes,
  ConfigName,
  DestinationKind,
  LobbyRules,
  MachineGroupRules,
  MachineRules,
  PoolRules,
  Region,
  RoomKindRules,
  SpreadShape,
} from "@yellow-harbor/protocol";
import type { DeclaredAttributes } from "./players/attributes.ts";
import type { QueueRules } from "./queues/rules.ts";
import type { Entropy } from "./stamp.ts";

/** The part of the configuration that decisions are made by. Only `decide` reads it: what `apply` needs is in the event. */
export interface HarborRules {
  readonly harbor: ConfigName;
  /** From which room codes are made. It is a secret: from it every code could be worked out. */
  readonly codeKey: Entropy;
  /**
   * Which of the harbors of its place this is, counted from 0, and of how many. Ids begin with the number, and of the room
   * codes each harbor gives out its share: so that both say where they belong.
   */
  readonly share: { readonly number: number; readonly of: number };
  readonly players: {
    /** Most players known at once, those away included. */
    readonly limit: number;
    /** Builds of game clients that are let in. */
    readonly builds: readonly string[];
    /** How long a lost player without a room is waited for. */
    readonly graceMs: number;
    /** What becomes of the second connection of an account whose player is here. */
    readonly sameAccount: "take-over" | "refuse";
    /** What players may bring, by name. */
    readonly attributes: DeclaredAttributes | null;
  };
  /** In order; the first is where a player stands who names none. */
  readonly lobbies: ReadonlyMap<ConfigName, LobbyRules>;
  readonly roomKinds: ReadonlyMap<ConfigName, RoomKindRules>;
  readonly queues: ReadonlyMap<ConfigName, QueueRules>;
  /** Whether matches are looked for here, in the decision itself, or apart, by whoever is told to. */
  readonly matcher: "here" | "apart";
  /** Regions in which matches are played; machines and queues may name others where there are none. */
  readonly regions: ReadonlyMap<ConfigName, Region>;
  readonly levels: ReadonlyMap<ConfigName, LevelRules>;
  readonly pools: ReadonlyMap<ConfigName, PoolRules>;
  readonly machines: ReadonlyMap<ConfigName, MachineRules>;
  readonly machineGroups: ReadonlyMap<ConfigName, MachineGroupRules>;
  readonly travel: {
    /** From the call until the address is told. */
    readonly prepareMs: number;
    /** From the address until everybody has arrived. */
    readonly boardMs: number;
    /** How many instances are tried for one travel. */
    readonly attempts: number;
  };
}

export interface LevelRules {
  readonly title: string;
  /** Players the level suits. */
  readonly min: number;
  readonly max: number;
  /** Whose instances run it; null when none does. */
  readonly pool: ConfigName | null;
  /** Kinds of destination it can be played at; every one that the room kind has when null. */
  readonly destinations: readonly DestinationKind[] | null;
  /** What the game itself keeps about it. */
  readonly attributes: Attributes | null;
  /** How its players are spread when they appear, and how far from each other. */
  readonly spread: { readonly shape: SpreadShape; readonly gap: number } | null;
}
