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

export interface TravellerNamed {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
}

export type TravelCommand =
  | {
      readonly do: "travel.call";
      readonly room: RoomId;
      readonly run: RunId;
      readonly level: LevelView;
      readonly pool: ConfigName;
      readonly travellers: readonly TravellerNamed[];
    }
  /** The destination answers: everybody may go there. */
  | { readonly do: "travel.board"; readonly run: RunId; readonly instance: InstanceId; readonly address: Address }
  | { readonly do: "travel.arrive"; readonly run: RunId; readonly player: PlayerId }
  /** Somebody has come into the room meanwhile: goes along as long as nobody is on the way yet. */
  | { readonly do: "travel.admit"; readonly run: RunId; readonly player: TravellerNamed }
  /** A traveller has left the room. */
  | { readonly do: "travel.forget"; readonly run: RunId; readonly player: PlayerId }
  /** The instance that was to be the destination is of no use any more. */
  | { readonly do: "travel.lose-instance"; readonly run: RunId; readonly detail: string }
  | { readonly do: "travel.expire"; readonly run: RunId }
  | { readonly do: "travel.fail"; readonly run: RunId; readonly code: ProblemCode; readonly detail: string };
