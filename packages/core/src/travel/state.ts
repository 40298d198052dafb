import type { Address, ConfigName, InstanceId, LevelView, PlayerId, RoomId, RunId } from "@yellow-harbor/protocol";

export interface Traveller {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
  arrived: boolean;
}

/** The move of one room to one level. It ends when everybody has arrived, or when it is given up. */
export interface Travel {
  readonly run: RunId;
  readonly room: RoomId;
  readonly level: LevelView;
  readonly pool: ConfigName;
  readonly travellers: Map<PlayerId, Traveller>;
  readonly calledAtMs: number;
  step: "preparing" | "boarding";
  deadlineMs: number;
  /** How many instances were tried. */
  attempt: number;
  destination: { readonly instance: InstanceId; readonly address: Address } | null;
}

export interface TravelsState {
  readonly byRun: Map<RunId, Travel>;
}

export function newTravelsState(): TravelsState {
  return { byRun: new Map() };
}
