import type {
  Address,
  ConfigName,
  DestinationKind,
  InstanceId,
  LevelView,
  PassId,
  PlayerArgs,
  PlayerAsk,
  PlayerId,
  ProblemCode,
  RoomId,
  RunId,
  Stragglers,
} from "@yellow-harbor/protocol";
import type { OfferedAddress } from "../effect.ts";

export interface TravellerNamed {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
}

/** A pass whose signature and time were found right. */
export interface ShownPass {
  readonly player: PlayerId;
  readonly pass: PassId;
  readonly run: RunId;
  readonly level: ConfigName;
}

export type TravelAsk = Extract<PlayerAsk, `travel.${string}`>;

type Asked<A extends TravelAsk, Args = PlayerArgs<A>> = {
  readonly do: A;
  readonly player: PlayerId;
  readonly args: Args;
};

/** What members ask. Addresses are complete and of use, and passes looked at, before they come here. */
export type TravelAskCommand =
  | { [A in Exclude<TravelAsk, "travel.offer" | "travel.board">]: Asked<A> }[Exclude<
      TravelAsk,
      "travel.offer" | "travel.board"
    >]
  | Asked<"travel.offer", { readonly run: RunId; readonly addresses: readonly OfferedAddress[] }>
  | Asked<"travel.board", { readonly shown: ShownPass; readonly attempt?: string | undefined }>;

export type TravelCommand =
  | TravelAskCommand
  | {
      readonly do: "travel.call";
      readonly room: RoomId;
      readonly run: RunId;
      readonly level: LevelView;
      readonly pool: ConfigName | null;
      readonly options: readonly DestinationKind[];
      readonly stragglers: Stragglers;
      readonly travellers: readonly TravellerNamed[];
    }
  /** Gets the destination ready that is to be tried now, where that is no instance. */
  | { readonly do: "travel.prepare"; readonly run: RunId }
  /** The instance answers and has the match: everybody may go there. */
  | {
      readonly do: "travel.instance-ready";
      readonly run: RunId;
      readonly instance: InstanceId;
      readonly address: Address;
    }
  /** What probing the addresses of a member's world has shown. */
  | {
      readonly do: "travel.world-probed";
      readonly run: RunId;
      readonly player: PlayerId;
      readonly probed: readonly Probed[];
    }
  /** Somebody's arrival, told by who saw it. */
  | { readonly do: "travel.mark-arrived"; readonly run: RunId; readonly player: PlayerId }
  /** Somebody is gone from the level, told by who saw it. */
  | { readonly do: "travel.mark-ashore"; readonly run: RunId; readonly player: PlayerId }
  /** Somebody has come into the room meanwhile: goes along as long as nobody is on the way yet. */
  | { readonly do: "travel.admit"; readonly run: RunId; readonly player: TravellerNamed }
  /** The same for a member's world; `anew` also when it had a berth before. */
  | {
      readonly do: "travel.add-berth";
      readonly room: RoomId;
      readonly run: RunId;
      readonly player: TravellerNamed;
      readonly anew: boolean;
    }
  /** Somebody looks on, or the run plays by now: a berth in a member's world; `always` also in the place of a good one. */
  | {
      readonly do: "travel.add-spectator";
      readonly room: RoomId;
      readonly run: RunId;
      readonly player: PlayerId;
      readonly always?: true;
    }
  /** A traveller has left the room. */
  | { readonly do: "travel.forget"; readonly room: RoomId; readonly run: RunId; readonly player: PlayerId }
  /** Something changed that the barrier looks at. */
  | { readonly do: "travel.consider"; readonly run: RunId }
  /** The instance that was to be the destination is of no use any more. */
  | {
      readonly do: "travel.lose-instance";
      readonly run: RunId;
      readonly detail: string;
      /** It never was one: its port was somebody else's, so this counts as no attempt. */
      readonly portTaken?: true | undefined;
    }
  /** The destination that is tried now comes to nothing: the next one, or none. */
  | { readonly do: "travel.forfeit"; readonly run: RunId; readonly code: ProblemCode; readonly detail: string }
  | { readonly do: "travel.expire"; readonly run: RunId }
  | { readonly do: "travel.operator-abort"; readonly room: RoomId; readonly reason: string | undefined }
  /** The run of a member's world is over. */
  | { readonly do: "travel.close-world"; readonly room: RoomId };

export interface Probed {
  readonly address: OfferedAddress;
  /** Null when it was not tried: the service may not look there. */
  readonly reached: boolean | null;
  readonly detail: string;
}
