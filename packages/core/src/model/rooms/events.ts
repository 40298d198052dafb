import type {
  Attention,
  BoardKey,
  ConfigName,
  DepartedReason,
  DestinationKind,
  EchoUrl,
  InvitationEnd,
  LevelView,
  MatchId,
  OnLeave,
  PlayerAttributes,
  PlayerId,
  ProblemCode,
  ReservedFor,
  RoomId,
  RunId,
  SettingsPatch,
  SideName,
  SideStanding,
  SpreadPlan,
  Standing,
  Stragglers,
  UnwatchedReason,
  Visibility,
} from "@yellow-harbor/protocol";
import type { Destination } from "../destination.ts";
import type { Latency } from "../latency.ts";
import type { Founding } from "./founding.ts";
import type { Reservation } from "./reservations.ts";
import type { Series } from "./state.ts";

export interface TravelRequest {
  /** For a dedicated destination. */
  readonly pool: ConfigName | null;
  readonly level: LevelView;
  /** Destinations in the order in which they are tried. */
  readonly options: readonly DestinationKind[];
  readonly stragglers: Stragglers;
  readonly spread: SpreadPlan | null;
  readonly members: readonly { readonly id: PlayerId; readonly name: string; readonly place: number }[];
}

/** A member who comes in with others. */
export interface AdmittedMember {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
  readonly side?: SideName;
  /** Of its queue's line-up. */
  readonly role?: string;
  readonly latency?: Latency;
  readonly attributes?: PlayerAttributes;
}

export type RoomEvent =
  /** An operator has opened it: nobody is in it yet. */
  | (Founding & {
      readonly kind: "room.set-up";
      /** Until when it stays although nobody comes. */
      readonly keptUntilMs: number;
      readonly request?: { readonly key: string; readonly fingerprint: string };
    })
  | ({ readonly kind: "room.place-reserved"; readonly room: RoomId } & Reservation)
  | {
      readonly kind: "room.reservation-ended";
      readonly room: RoomId;
      readonly for: ReservedFor;
      readonly cause: Exclude<InvitationEnd, "joined">;
      /** The member who took it back. */
      readonly by?: PlayerId;
    }
  | (Founding & {
      readonly kind: "room.opened";
      readonly host: PlayerId;
      readonly hostName: string;
      readonly side?: SideName;
      readonly role?: string;
      readonly latency?: Latency;
      readonly attributes?: PlayerAttributes;
      /** The match it is made for, with all others who come in at once; everybody is ready then. */
      readonly match?: { readonly id: MatchId; readonly others: readonly AdmittedMember[] };
    })
  | {
      readonly kind: "room.joined";
      readonly room: RoomId;
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly place: number;
      readonly side?: SideName;
      readonly role?: string;
      readonly latency?: Latency;
      readonly attributes?: PlayerAttributes;
      /** Set when nobody was in it: the newcomer has the powers. */
      readonly host?: PlayerId;
      readonly unready?: true;
      /** The match that brings it in, when it did not ask for this room. */
      readonly match?: MatchId;
      /** An operator has put it in. */
      readonly by?: "operator";
      /** The leader of its party, whom it follows. */
      readonly with?: PlayerId;
      /** It has looked on in this room until now, and so holds its state. */
      readonly watched?: true;
      /** The place that was kept for it. */
      readonly reserved?: ReservedFor;
      /** The room had none yet. */
      readonly build?: string;
    }
  | {
      readonly kind: "room.watched";
      readonly room: RoomId;
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly place: number;
      /** It has been a member until now, and so holds the state of the room. */
      readonly wasMember?: true;
    }
  | {
      readonly kind: "room.unwatched";
      readonly room: RoomId;
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: UnwatchedReason;
      readonly by?: "host" | "moderator" | "operator" | "instance";
      readonly why?: string;
      readonly ban?: boolean;
    }
  | ({ readonly kind: "room.spectator-changed"; readonly room: RoomId; readonly player: PlayerId } & (
      | { readonly presence: "here" }
      | { readonly presence: "away"; readonly untilMs: number }
    ))
  | {
      readonly kind: "room.departed";
      readonly room: RoomId;
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: DepartedReason;
      /** It stays to look on. */
      readonly watches?: true;
      /** Who kicked it, and why. */
      readonly by?: "host" | "moderator" | "operator" | "instance";
      readonly why?: string;
      /** Entries of the board that go with it, and those that pass to the host. */
      readonly gone?: readonly BoardKey[];
      readonly passed?: readonly BoardKey[];
      /** Whether it may not come back in. */
      readonly ban?: boolean;
      /** The new host, when the one who departed was host and somebody remains. */
      readonly host?: PlayerId;
      /** The turn's next holder, when the one who departed held it and somebody is there to take it; null when nobody is. */
      /** Members whose offer to swap with it is void. */
      readonly voided?: readonly PlayerId[];
      readonly turn?: { readonly holder: PlayerId; readonly endsAtMs: number | null } | null;
      /** The level that leads without its vote. */
      readonly leads?: LevelView;
      readonly unready?: true;
    }
  | {
      readonly kind: "room.settings-changed";
      readonly room: RoomId;
      /** Absent when an operator did. */
      readonly by?: PlayerId;
      readonly name?: string;
      readonly capacity?: number;
      readonly visibility?: Visibility;
      /** Null when it has none any more. */
      readonly password?: string | null;
      readonly settings?: SettingsPatch;
      readonly unready?: true;
    }
  | {
      readonly kind: "room.board-set";
      readonly room: RoomId;
      readonly key: BoardKey;
      readonly value: unknown;
      readonly size: number;
      readonly owner: PlayerId;
      readonly onLeave: OnLeave;
      readonly by: PlayerId;
    }
  | { readonly kind: "room.board-removed"; readonly room: RoomId; readonly key: BoardKey; readonly by: PlayerId }
  | {
      readonly kind: "room.host-changed";
      readonly room: RoomId;
      readonly host: PlayerId;
      readonly by?: PlayerId;
      readonly cause?: "given" | "operator" | "lost";
    }
  | { readonly kind: "room.banned"; readonly room: RoomId; readonly player: PlayerId; readonly why?: string }
  | { readonly kind: "room.unbanned"; readonly room: RoomId; readonly player: PlayerId }
  | {
      readonly kind: "room.moved";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly place: number;
      readonly side: SideName | null;
      readonly unready?: true;
    }
  | {
      readonly kind: "room.swap-offered";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly with: PlayerId | null;
    }
  | {
      readonly kind: "room.swapped";
      readonly room: RoomId;
      readonly players: readonly [PlayerId, PlayerId];
      readonly unready?: true;
    }
  | {
      readonly kind: "room.balanced";
      readonly room: RoomId;
      readonly by: PlayerId;
      readonly moved: readonly { readonly player: PlayerId; readonly side: SideName }[];
      readonly unready?: true;
    }
  | {
      readonly kind: "room.background-set";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly attention: Attention | null;
    }
  | {
      readonly kind: "room.voted";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly level: ConfigName;
      /** The level that leads now, when that is another. */
      readonly leads?: LevelView;
      readonly unready?: true;
    }
  | { readonly kind: "room.idle-asked"; readonly room: RoomId; readonly player: PlayerId; readonly untilMs: number }
  | { readonly kind: "room.member-active"; readonly room: RoomId; readonly player: PlayerId }
  | {
      readonly kind: "room.member-described";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly attributes: PlayerAttributes;
      /** What it has no longer. */
      readonly gone?: readonly string[];
      /** What it has said for this room alone, when that is what has changed. */
      readonly own?: PlayerAttributes;
    }
  | {
      readonly kind: "room.peers-measured";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly peersMs: Readonly<Record<PlayerId, number>>;
      /** Of whom it tells nothing any more. */
      readonly gone?: readonly PlayerId[];
    }
  /** Where the host's own world answers echoes; null for nowhere any more. */
  | {
      readonly kind: "room.echo-told";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly echo: EchoUrl | null;
    }
  | { readonly kind: "room.measured"; readonly room: RoomId; readonly player: PlayerId; readonly latency: Latency }
  | {
      readonly kind: "room.turn-passed";
      readonly room: RoomId;
      readonly holder: PlayerId;
      readonly cause: "given" | "gone" | "late";
      readonly by?: PlayerId;
      readonly limitMs: number | null;
      readonly endsAtMs: number | null;
    }
  | { readonly kind: "room.turns-ended"; readonly room: RoomId; readonly by?: PlayerId }
  | {
      readonly kind: "room.member-away";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly untilMs: number;
    }
  | { readonly kind: "room.member-back"; readonly room: RoomId; readonly player: PlayerId }
  | {
      readonly kind: "room.level-picked";
      readonly room: RoomId;
      /** Absent when an operator did. */
      readonly by?: PlayerId;
      readonly level: LevelView;
      readonly unready?: true;
    }
  | { readonly kind: "room.ready-set"; readonly room: RoomId; readonly player: PlayerId; readonly ready: boolean }
  | { readonly kind: "room.counting"; readonly room: RoomId; readonly startsAtMs: number }
  | { readonly kind: "room.count-stopped"; readonly room: RoomId; readonly why: string }
  | {
      readonly kind: "room.started";
      readonly room: RoomId;
      readonly run: RunId;
      readonly request: TravelRequest;
      /** How often in a row, when the run begins anew since its place was lost. */
      readonly moves?: number;
    }
  | { readonly kind: "room.playing"; readonly room: RoomId; readonly run: RunId; readonly destination: Destination }
  | {
      readonly kind: "room.result-set";
      readonly room: RoomId;
      readonly run: RunId;
      readonly standings: readonly Standing[];
      readonly sides?: readonly SideStanding[];
      readonly payload?: unknown;
      readonly note?: string;
      /** What it makes of the series of the room. */
      readonly series?: Series;
      /** Who stands on which side from now on, where sides are swapped. */
      readonly swapped?: readonly { readonly player: PlayerId; readonly side: SideName }[];
      /** Until when the results are shown; gathering at once without. */
      readonly untilMs?: number;
      /** The level that is next, where the order of levels picks it. */
      readonly next?: LevelView;
    }
  /** The results have been seen. */
  | { readonly kind: "room.gathered"; readonly room: RoomId; readonly by?: PlayerId }
  | {
      readonly kind: "room.returned";
      readonly room: RoomId;
      readonly run: RunId;
      readonly code: ProblemCode;
      readonly detail: string;
      /** Readiness stays as it was, but that of these. */
      readonly kept?: { readonly but: readonly PlayerId[] };
      /** The run had begun: its result is void. */
      readonly void?: true;
      /** Back to the results that were shown, until then. */
      readonly untilMs?: number;
    }
  | { readonly kind: "room.closed"; readonly room: RoomId; readonly lobby: ConfigName; readonly code: string };
