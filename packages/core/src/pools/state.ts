import type {
  Address,
  ConfigName,
  InstanceId,
  InstanceState,
  Order,
  PassId,
  PlayerId,
  RoomId,
  RunId,
} from "@yellow-harbor/protocol";
import type { Berth } from "../harbor/berth.ts";

export interface Match {
  readonly room: RoomId;
  readonly run: RunId;
  readonly level: ConfigName;
  /** Number of the order by which the instance was told. */
  readonly order: number;
  readonly berths: Map<PlayerId, Berth>;
}

export interface Instance {
  readonly id: InstanceId;
  readonly pool: ConfigName;
  readonly build: ConfigName;
  readonly address: Address;
  readonly orderedAtMs: number;
  /** Copied from the pool when it was ordered. */
  readonly stopMs: number;
  readonly portRestMs: number;
  readonly forgetMs: number;
  state: InstanceState;
  why: string;
  changedAtMs: number;
  pid: number | null;
  announced: boolean;
  /** Said farewell: it exits by itself. */
  parting: boolean;
  /** The process is known to be gone. */
  gone: boolean;
  /** The room it is held for. */
  room: RoomId | null;
  match: Match | null;
  /** The last run it reported. */
  lastRun: RunId | null;
  /** Orders not yet taken, oldest first. */
  orders: Order[];
  ordersGiven: number;
  ordersTaken: number;
  exitCode: number | null;
  signal: string | null;
}

export interface PoolsState {
  readonly instances: Map<InstanceId, Instance>;
  readonly byRoom: Map<RoomId, InstanceId>;
  /** Ports in use or at rest: `host:port` to the time from which it is free again, or null while in use. */
  readonly ports: Map<string, number | null>;
  /** Instances of each pool whose process is not known to be gone. */
  readonly live: Map<ConfigName, number>;
}

export function newPoolsState(): PoolsState {
  return { instances: new Map(), byRoom: new Map(), ports: new Map(), live: new Map() };
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
