import type {
  Address,
  ConfigName,
  DestinationKind,
  InstanceId,
  LevelView,
  PlayerId,
  RoomId,
  RunId,
  Stragglers,
} from "@yellow-harbor/protocol";
import type { Berth } from "../berth.ts";
import type { Destination } from "../destination.ts";

export interface Traveller {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
  arrived: boolean;
  /** How far it has loaded, by its own word. */
  percent: number;
  /** Why it cannot get there, by its own word. */
  trouble: string | null;
}

/** The move of one room to one level. It ends when the barrier opens, or when it is given up. */
export interface Travel {
  readonly run: RunId;
  readonly room: RoomId;
  readonly level: LevelView;
  /** For a dedicated destination. */
  readonly pool: ConfigName | null;
  readonly travellers: Map<PlayerId, Traveller>;
  readonly calledAtMs: number;
  /** Destinations in the order in which they are tried. */
  readonly options: readonly DestinationKind[];
  readonly stragglers: Stragglers;
  /** The instance that the room holds from the run before. */
  readonly from: { readonly instance: InstanceId; readonly address: Address } | null;
  step: "preparing" | "boarding";
  deadlineMs: number;
  /** Which of the options is tried now, and why. */
  option: number;
  why: string;
  /** What came of the options before. */
  tried: readonly { readonly by: DestinationKind; readonly why: string }[];
  /** How many instances were tried. */
  attempt: number;
  /** The member who is asked to run the world, and where it says that the world is reached. */
  hosting: { readonly player: PlayerId; readonly offered: readonly Address[] | null } | null;
  destination: Destination | null;
}

/** What a member runs for its room: who may come in. It lasts from the boarding to the end of the run. */
export interface World {
  readonly room: RoomId;
  readonly run: RunId;
  readonly level: ConfigName;
  /** The member who runs it. */
  readonly player: PlayerId;
  readonly addresses: readonly Address[];
  readonly berths: Map<PlayerId, Berth>;
}

export interface TravelsState {
  readonly byRun: Map<RunId, Travel>;
  readonly worlds: Map<RoomId, World>;
}

export function newTravelsState(): TravelsState {
  return { byRun: new Map(), worlds: new Map() };
}

export const kindOf = ({ options, option }: Travel): DestinationKind => options[option] ?? "dedicated";
