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

export interface Berth {
  readonly player: PlayerId;
  readonly name: string;
  readonly place: number;
  /** Id of the one pass that takes this berth. */
  readonly pass: PassId;
  /** Of a berth that was added to a match under way: until when the pass counts. */
  readonly expiresAtMs: number | null;
  state: "reserved" | "taken" | "left";
  /** The instance's own mark for the boarding that took the berth. */
  attempt: string | null;
}

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
  readonly instance: InstanceId;
  readonly address: Address;
  readonly expiresAtMs: number;
}
