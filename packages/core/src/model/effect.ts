import type {
  Address,
  BuildProbe,
  BuildSpec,
  ConfigName,
  InstanceId,
  PlayerId,
  ProblemCode,
  RunId,
} from "@yellow-harbor/protocol";
import type { Look } from "../matching/index.ts";

/** What the world has to do after the events are durable. Carried out at least once: a recovery may repeat one. */
export type Effect =
  /** Tell a player why, and end its connection. */
  | {
      readonly effect: "end-connection";
      readonly player: PlayerId;
      readonly code: ProblemCode;
      readonly detail: string;
    }
  | ProbeWorld
  | FleetEffect
  | LookForMatches
  | InstanceEffect;

/** An address at which a member says that its world is, and what it answers to where that is UDP. */
export interface OfferedAddress extends Readonly<Address> {
  readonly probe?: Readonly<Pick<BuildProbe, "send">>;
}

/** Look whether the world that a member runs can be reached from here. */
export interface ProbeWorld {
  readonly effect: "probe-world";
  readonly run: RunId;
  readonly player: PlayerId;
  readonly addresses: readonly OfferedAddress[];
}

/**
 * Look for matches in a queue, beside the one who decides: `queue.propose` is the answer. What was said of the queue before
 * still holds, but for who has come and gone since.
 */
export interface LookForMatches extends Look {
  readonly effect: "look-for-matches";
  readonly look: string;
}

/** Order a machine, or give it back. Said again after a restart, by the same name. */
export interface FleetEffect {
  readonly effect: "order-machine" | "return-machine";
  readonly machine: ConfigName;
  readonly group: ConfigName;
}

export type InstanceEffect =
  | {
      readonly effect: "start-instance";
      readonly instance: InstanceId;
      readonly pool: ConfigName;
      readonly build: ConfigName;
      readonly version: string;
      readonly spec: BuildSpec;
      readonly machine: ConfigName;
      readonly address: Address;
      readonly ports: Readonly<Record<string, number>>;
      /** The level it is started for, where one is known. */
      readonly level: ConfigName | null;
      /** Build of the clients of the room that it is started for, where one is known. */
      readonly client: string | null;
    }
  /** Find out whether the process of an instance still runs, and watch it from now on. */
  | { readonly effect: "watch-instance"; readonly instance: InstanceId; readonly pid: number }
  | {
      readonly effect: "probe-instance";
      readonly instance: InstanceId;
      readonly address: Address;
      /** What is asked there; a UDP address without one cannot be probed. */
      readonly probe?: BuildProbe;
    }
  /** New instructions wait, up to that number: answer the instance's open poll. */
  | { readonly effect: "wake-instance"; readonly instance: InstanceId; readonly upTo: number }
  | { readonly effect: "signal-instance"; readonly instance: InstanceId; readonly signal: "terminate" | "kill" };
