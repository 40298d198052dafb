import type { ConfigName, LevelView, RoomId, RoomPolicy, Settings, Visibility } from "@yellow-harbor/protocol";

/** What a new room is. */
export interface Founding {
  readonly room: RoomId;
  readonly code: string;
  /** Number that the code was made from; the next one after the last when absent. */
  readonly codeNumber?: number;
  readonly name: string;
  readonly lobby: ConfigName;
  readonly roomKind: ConfigName;
  readonly capacity: number;
  /** Empty in one that an operator has opened for any: the first to join gives it. */
  readonly build: string;
  readonly policy: RoomPolicy;
  /** Picked by the host when it opened the room, or the one that is not for the host to pick. */
  readonly level?: LevelView;
  /** Any when absent. */
  readonly region?: ConfigName;
  /** `listed` when absent. */
  readonly visibility?: Visibility;
  /** As the service keeps it, never as it was typed. */
  readonly password?: string;
  readonly settings?: Settings;
}
