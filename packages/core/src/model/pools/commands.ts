import type { ConfigName, InstanceId, MatchAssignment, PassId, PlayerId, RoomId, RunId } from "@yellow-harbor/protocol";
import type { ReportedOutcome } from "../outcome.ts";

export type PoolCommand =
  /** A room needs an instance: the one it holds, a free one, or a new one. */
  | { readonly do: "pool.allocate"; readonly pool: ConfigName; readonly room: RoomId; readonly run: RunId }
  /** The planner wants one more, for whoever comes. */
  | {
      readonly do: "pool.launch-ahead";
      readonly pool: ConfigName;
      readonly why: string;
      /** Where it is to be; anywhere when absent. */
      readonly region?: string | undefined;
    }
  /** The planner does not want one any more that nobody holds. */
  | { readonly do: "pool.retire"; readonly id: InstanceId; readonly why: string }
  /** It is to take no new room, and to stop when its matches are over, or its time to drain is. */
  | {
      readonly do: "pool.drain";
      readonly id: InstanceId;
      readonly why: string;
      /** When what is left is stopped; after the pool's time to drain when absent. */
      readonly untilMs?: number | undefined;
    }
  /** One that drains and that nobody holds is needed after all. */
  | { readonly do: "pool.reclaim"; readonly id: InstanceId; readonly why: string }
  | { readonly do: "pool.stop-if-done"; readonly id: InstanceId }
  /** A room needs its instance no longer. */
  | { readonly do: "pool.release"; readonly room: RoomId; readonly reason: string }
  /** A room has arrived where it goes: what it held for the run before is needed no longer. */
  | { readonly do: "pool.release-former"; readonly room: RoomId }
  | { readonly do: "pool.free-berth"; readonly room: RoomId; readonly player: PlayerId }
  /** Somebody follows a match under way: keeps a berth for it; `anew` also when it had one before. */
  | {
      readonly do: "pool.add-berth";
      readonly room: RoomId;
      readonly run: RunId;
      readonly player: { readonly id: PlayerId; readonly name: string; readonly place: number };
      readonly anew: boolean;
      /** Also when the one it has still works. */
      readonly always?: boolean;
    }
  /** The barrier has opened, and some are not there: the instance need not wait for them. */
  | {
      readonly do: "pool.start-match";
      readonly room: RoomId;
      readonly run: RunId;
      readonly without: readonly PlayerId[];
    }
  /** Somebody else than the instance has decided that a run is over. */
  /** Somebody looks on in a room that plays: a berth and a pass of its own, once more when it has none that counts. */
  | { readonly do: "pool.add-spectator"; readonly room: RoomId; readonly run: RunId; readonly player: PlayerId }
  /** Something of a room is other that the instance knows of its match. */
  | { readonly do: "pool.tell-match"; readonly room: RoomId }
  | { readonly do: "pool.end-match"; readonly room: RoomId; readonly run: RunId; readonly reason: string }
  | InstanceCommand;

/** What a line of output tells: that it is ready, who has come in or gone, that the match is over. */
export type OutputEvent =
  | { readonly what: "ready" }
  | { readonly what: "over" }
  | { readonly what: "joined" | "left"; readonly who: Named }
  | { readonly what: "score"; readonly who: Named; readonly score: number };

/** How a line names a player. */
export interface Named {
  readonly by: "id" | "name" | "place";
  readonly text: string;
}

export type InstanceCommand = { readonly instance: InstanceId } & (
  | { readonly do: "instance.spawned"; readonly pid: number }
  | { readonly do: "instance.start-failed"; readonly detail: string; readonly portTaken: boolean }
  | { readonly do: "instance.announce"; readonly port: number; readonly pid: number | undefined }
  | { readonly do: "instance.probed"; readonly reached: boolean; readonly detail: string }
  | { readonly do: "instance.assign"; readonly match: MatchAssignment }
  /** `players`: who is there by its word, when it says so. */
  | {
      readonly do: "instance.acknowledge";
      readonly acknowledged: number;
      readonly players?: readonly PlayerId[] | undefined;
    }
  /** What the output of an instance that knows nothing of us has told, up to a byte of a stream. */
  | {
      readonly do: "instance.output";
      readonly stream: "out" | "err";
      readonly upTo: number;
      /** The file was put aside and begins anew. */
      readonly anew: boolean;
      readonly said: readonly OutputEvent[];
    }
  | {
      readonly do: "instance.board";
      readonly player: PlayerId;
      readonly pass: PassId;
      readonly run: RunId;
      readonly level?: ConfigName | undefined;
      readonly attempt?: string | undefined;
    }
  | { readonly do: "instance.unboard"; readonly player: PlayerId; readonly reason: "left" | "lost" | "kicked" }
  | {
      readonly do: "instance.kick";
      readonly player: PlayerId;
      readonly reason: string | undefined;
      readonly ban: boolean;
    }
  | ({ readonly do: "instance.report"; readonly run: RunId } & ReportedOutcome)
  | { readonly do: "instance.goodbye"; readonly reason: string }
  | { readonly do: "instance.exited"; readonly exitCode: number | null; readonly signal: string | null }
  | { readonly do: "instance.silent"; readonly detail: string }
  | { readonly do: "instance.over-limit"; readonly detail: string }
  | { readonly do: "instance.boot-late" }
  | { readonly do: "instance.drain-late" }
  | { readonly do: "instance.run-late" }
  | { readonly do: "instance.empty-late" }
  | { readonly do: "instance.berths-late" }
  | { readonly do: "instance.stop-late" }
  | { readonly do: "instance.kill-late" }
  | { readonly do: "instance.forget" }
);
