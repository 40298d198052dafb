import type {
  Address,
  ConfigName,
  DestinationKind,
  InstanceId,
  LevelView,
  PassId,
  PlayerId,
  ProblemCode,
  RoomId,
  RunId,
  Stragglers,
} from "@yellow-harbor/protocol";
import type { Destination } from "../destination.ts";
import type { OfferedAddress } from "../effect.ts";
import type { TravellerNamed } from "./commands.ts";

export type TravelEvent = { readonly room: RoomId; readonly run: RunId } & (
  | {
      readonly kind: "travel.called";
      readonly level: LevelView;
      readonly pool: ConfigName | null;
      readonly options: readonly DestinationKind[];
      readonly stragglers: Stragglers;
      readonly from: { readonly instance: InstanceId; readonly address: Address } | null;
      readonly travellers: readonly TravellerNamed[];
      readonly deadlineMs: number;
    }
  /** The instance was lost; another one is asked for, and everybody has to go there. */
  | {
      readonly kind: "travel.retried";
      readonly attempt: number;
      readonly detail: string;
      /** The same as before when absent. */
      readonly deadlineMs?: number;
    }
  /** The destination came to nothing; another kind is tried. */
  | {
      readonly kind: "travel.rerouted";
      readonly by: DestinationKind;
      readonly code: ProblemCode;
      readonly why: string;
      readonly deadlineMs: number;
    }
  /** A member is asked to run the world. */
  | { readonly kind: "travel.host-requested"; readonly player: PlayerId }
  | { readonly kind: "travel.offered"; readonly player: PlayerId; readonly addresses: readonly OfferedAddress[] }
  | {
      readonly kind: "travel.boarding";
      readonly destination: Destination;
      readonly detail: string;
      readonly deadlineMs: number;
      /** For a member's world: pass by player. */
      readonly passes?: Readonly<Record<PlayerId, PassId>>;
    }
  | { readonly kind: "travel.progressed"; readonly player: PlayerId; readonly percent: number }
  | { readonly kind: "travel.troubled"; readonly player: PlayerId; readonly why: string }
  | { readonly kind: "travel.arrived"; readonly player: PlayerId }
  | { readonly kind: "travel.joined"; readonly player: TravellerNamed }
  | { readonly kind: "travel.forgot"; readonly player: PlayerId }
  /** The barrier is open: once for each travel. */
  | {
      readonly kind: "travel.completed";
      readonly destination: Destination;
      /** Who follows late. */
      readonly without?: readonly PlayerId[];
      /** Who is removed from the room. */
      readonly late?: readonly PlayerId[];
    }
  | {
      readonly kind: "travel.failed";
      readonly code: ProblemCode;
      readonly detail: string;
      /** Given up by choice: by the host, or by an operator. */
      readonly aborted?: { readonly by: PlayerId | null };
    }
  /** Somebody arrived after the others. */
  | { readonly kind: "travel.followed"; readonly player: PlayerId }
  /** Somebody is gone from the level and still in the room. */
  | { readonly kind: "travel.ashore"; readonly player: PlayerId }
  /** A member has no pass that works for the instance, and needs another. */
  | { readonly kind: "travel.pass-requested"; readonly player: TravellerNamed }
  | {
      readonly kind: "travel.berth-added";
      readonly player: TravellerNamed;
      readonly pass: PassId;
      readonly expiresAtMs: number;
      readonly spectator?: true;
    }
  | { readonly kind: "travel.boarded"; readonly player: PlayerId; readonly attempt?: string }
  | { readonly kind: "travel.berth-freed"; readonly player: PlayerId }
  /** A member's world is over; `lost` when its run was not. */
  | { readonly kind: "travel.world-closed"; readonly lost?: string }
);

/** Events that change nothing of what the room's members see. */
const UNSEEN: ReadonlySet<TravelEvent["kind"]> = new Set([
  "travel.pass-requested",
  "travel.berth-added",
  "travel.boarded",
  "travel.berth-freed",
  "travel.world-closed",
] as const);

export const isSeen = ({ kind }: TravelEvent): boolean => !UNSEEN.has(kind);
