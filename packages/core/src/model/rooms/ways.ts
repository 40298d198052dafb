import type { DestinationKind, SideName, Stragglers } from "@yellow-harbor/protocol";

/** A change that may clear readiness. */
export type Unsettling = "level" | "settings" | "sides" | "members";

/** How a room goes about things. Copied from its kind when it is opened: a room lives by the rules it was opened under. */
export interface RoomWays {
  /** Fewest members with which it may start. */
  readonly leastPlayers: number;
  /** How long the place of a lost member is kept. */
  readonly graceMs: number;
  /** From start until the travel begins; 0 for at once. */
  readonly countdownMs: number;
  /** Whether it starts by itself once nothing is missing. */
  readonly autoStart: boolean;
  /** Who may start. */
  readonly starters: "host" | "anyone";
  /** Whose word is needed: everybody's, that of those who are here, nobody's. Who is away then stays behind. */
  readonly readiness: "all" | "here" | "none";
  /** Changes after which everybody has to say again that it is ready. */
  readonly clearsReady: readonly Unsettling[];
  /** What happens when the host goes. */
  readonly hostGoes: "hand-over" | "close";
  /** How long a lost host keeps the powers. */
  readonly hostGraceMs: number;
  /** Who is next. */
  readonly nextHost: "longest-present" | "lowest-latency";
  /** Whether one may join after the start; with backfill only by a queue. */
  readonly lateJoining: "closed" | "open" | "backfill";
  /** How long it stays open with nobody in it; 0 to close at once. */
  readonly emptyMs: number;
  readonly sides: SideWays | null;
  /** Who decides the result of a run. */
  readonly resultBy: "instance" | "host" | "operator";
  /** How long results are shown before it gathers again; 0 to gather at once. */
  readonly resultsMs: number;
  /** How long a run may go on without a result; 0 for ever. */
  readonly playMs: number;
  /** Where it may play, in the order in which that is tried. */
  readonly destinations: readonly DestinationKind[];
  /** What becomes of those who have not arrived in time. */
  readonly stragglers: Stragglers;
  /** What follows when the place it plays at is lost: the run is over, or begins anew at another. */
  readonly onLoss: "end" | "move";
  /** Who picks the level: the host, the order of the room kind's levels, or the members by vote. */
  readonly levelBy: "host" | "rotation" | "vote";
}

export interface SideWays {
  readonly names: readonly SideName[];
  /** Most members of each side. */
  readonly most: number;
  /** By how many members the sides may differ at the start, or null when that does not matter. */
  readonly apart: number | null;
}

/** Only the ways out of a room kind's rules. */
export function waysOf(kind: RoomWays): RoomWays {
  const { leastPlayers, graceMs, countdownMs, autoStart, starters, readiness, clearsReady } = kind;
  const { hostGoes, hostGraceMs, nextHost, lateJoining, emptyMs, sides, resultBy, resultsMs, playMs } = kind;
  const { destinations, stragglers, onLoss, levelBy } = kind;
  return {
    leastPlayers,
    graceMs,
    countdownMs,
    autoStart,
    starters,
    readiness,
    clearsReady,
    hostGoes,
    hostGraceMs,
    nextHost,
    lateJoining,
    emptyMs,
    sides,
    resultBy,
    resultsMs,
    playMs,
    destinations,
    stragglers,
    onLoss,
    levelBy,
  };
}
