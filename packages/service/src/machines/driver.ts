import type { Address, BuildSpec, ConfigName, InstanceId, MorePorts } from "@yellow-harbor/protocol";

export interface LaunchRequest {
  readonly instance: InstanceId;
  readonly spec: BuildSpec;
  /** More of its environment, from the pool. */
  readonly environment: Readonly<Record<string, string>>;
  /** What its build names as a secret, by name. */
  readonly secrets: Readonly<Record<string, string>>;
  readonly address: Address;
  readonly ports: MorePorts;
  /** The level it is started for, where one is known. */
  readonly level: ConfigName | null;
  /** Build of the clients of that room, where one is known. */
  readonly client?: string | null | undefined;
  /** Key with which the instance shows itself to the service. A secret. */
  readonly key: string;
}

export interface Exit {
  /** null when a signal ended it, or when nobody saw how it ended. */
  readonly exitCode: number | null;
  readonly signal: string | null;
}

export type OutputStream = "out" | "err";

/** What an instance has printed to a stream: what it prints to now, and what was put aside before that. */
export interface Output {
  // Both reject with OutputAwayError while nobody can look: that is not the same as nothing.
  /** Bytes; 0 of what is not there. `cut` are those that stood before the former part and were not kept. */
  size(part: "now" | "former" | "cut"): Promise<number>;
  /** At most so many bytes from a place on. */
  read(part: "now" | "former", from: number, max: number): Promise<Buffer>;
}

/** The machine that holds the output is away. */
export class OutputAwayError extends Error {
  constructor() {
    super("the machine's agent is away; its output can be read when it is back");
  }
}

/** What a driver reports. Reports may come more than once, and late. */
export interface DriverEvents {
  readonly spawned: (instance: InstanceId, pid: number) => void;
  readonly startFailed: (instance: InstanceId, why: { readonly detail: string; readonly portTaken: boolean }) => void;
  /** It takes more than its build may. */
  readonly overLimit: (instance: InstanceId, detail: string) => void;
  readonly exited: (instance: InstanceId, exit: Exit) => void;
}

/** Runs instances on a machine. A port: this computer now, others later. */
export interface MachineDriver {
  /** Starts the instance unless it already runs. */
  start(request: LaunchRequest): Promise<void>;
  /** Watches a process that an earlier service started; `pid` 0 when it was not written down. */
  adopt(instance: InstanceId, pid: number): Promise<void>;
  signal(instance: InstanceId, signal: "terminate" | "kill"): void;
  output(instance: InstanceId, stream: OutputStream): Output;
  /** Instances that are known to run now. */
  running(): readonly InstanceId[];
  /** Stops watching. What runs goes on running. */
  close(): void;
}
