import type { ConfigName } from "@yellow-harbor/protocol";
import type { BanCommand } from "./bans/commands.ts";
import type { BuildCommand } from "./builds/commands.ts";
import type { FleetCommand } from "./fleets/commands.ts";
import type { LobbyCommand } from "./lobbies/commands.ts";
import type { MachineCommand } from "./machines/commands.ts";
import type { PartyCommand } from "./parties/commands.ts";
import type { PlanCommand } from "./planner/commands.ts";
import type { PlayerCommand } from "./players/commands.ts";
import type { PoolCommand } from "./pools/commands.ts";
import type { PrivateEntryCommand } from "./private-entries/commands.ts";
import type { QueueCommand } from "./queues/commands.ts";
import type { RatingCommand } from "./ratings/commands.ts";
import type { RelationCommand } from "./relations/commands.ts";
import type { RoomCommand } from "./rooms/commands.ts";
import type { TravelCommand } from "./travel/commands.ts";

export type HarborCommand =
  /** First command of an empty harbor; refused afterwards. */
  | { readonly do: "harbor.found" }
  /** First command after a restart: connections are gone, effects may not have been carried out. */
  | { readonly do: "harbor.recover" }
  /** Says that other rules hold by now, also for queues: see `Harbor.changeRules`. */
  | {
      readonly do: "harbor.change-rules";
      /** What is other, such as `lobbies.quayside.title`. */
      readonly paths: readonly string[];
      readonly queues: QueueChange;
    };

/** Queues that are new or have other rules, and those that are gone. */
export interface QueueChange {
  readonly changed: readonly ConfigName[];
  readonly gone: readonly ConfigName[];
}

/** Commands by capability. One that nothing else reads adds its own to it where it stands. */
export interface Commands {
  harbor: HarborCommand;
  player: PlayerCommand;
  ban: BanCommand;
  lobby: LobbyCommand;
  party: PartyCommand;
  relation: RelationCommand;
  room: RoomCommand;
  privateEntry: PrivateEntryCommand;
  travel: TravelCommand;
  queue: QueueCommand;
  rating: RatingCommand;
  build: BuildCommand;
  machine: MachineCommand;
  fleet: FleetCommand;
  plan: PlanCommand;
  pool: PoolCommand;
}

export type Command = Commands[keyof Commands];
