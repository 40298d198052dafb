export interface Snapshot {
  readonly seq: number;
  readonly version: number;
  readonly body: string;
}

/** Where snapshots of one harbor are kept. A port. */
export interface Snapshots {
  newest(): Promise<Snapshot | undefined>;
  /** Keeps a snapshot; of older ones so many that no event is further than two `spacing`s from one. */
  put(snapshot: Snapshot, spacing: number): Promise<void>;
}
