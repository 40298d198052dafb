import type {
  Address,
  ConfigName,
  InstanceId,
  LevelView,
  PlayerId,
  ProblemCode,
  RoomId,
  RunId,
} from "@yellow-harbor/protocol";
import type { TravellerNamed } from "./commands.ts";

export type TravelEvent =
  | {
      readonly kind: "travel.called";
      readonly room: RoomId;
      readonly run: RunId;
      readonly level: LevelView;
      readonly pool: ConfigName;
      readonly travellers: readonly TravellerNamed[];
      readonly deadlineMs: number;
    }
  /** The instance was lost before anybody was sent there; another one is asked for. */
  | {
      readonly kind: "travel.retried";
      readonly room: RoomId;
      readonly run: RunId;
      readonly attempt: number;
      readonly detail: string;
    }
  | {
      readonly kind: "travel.boarding";
      readonly room: RoomId;
      readonly run: RunId;
      readonly instance: InstanceId;
      readonly address: Address;
      readonly deadlineMs: number;
    }
  | { readonly kind: "travel.arrived"; readonly room: RoomId; readonly run: RunId; readonly player: PlayerId }
  | { readonly kind: "travel.joined"; readonly room: RoomId; readonly run: RunId; readonly player: TravellerNamed }
  | { readonly kind: "travel.forgot"; readonly room: RoomId; readonly run: RunId; readonly player: PlayerId }
  | {
      readonly kind: "travel.completed";
      readonly room: RoomId;
      readonly run: RunId;
      readonly instance: InstanceId;
      readonly address: Address;
    }
  | {
      readonly kind: "travel.failed";
      readonly room: RoomId;
      readonly run: RunId;
      readonly code: ProblemCode;
      readonly detail: string;
    };
