import { randomUUID } from "node:crypto";
import { setTimeout as wait } from "node:timers/promises";
import {
  type BackOff,
  type BoardReply,
  type Instruction,
  type MatchAssignment,
  instanceEnvironment as names,
  type PollReply,
  pauseMs,
  type ScoreRow,
} from "@yellow-harbor/protocol";
import { call, RefusedError, UnreachableError } from "./call.ts";

/** What the service instructs. A handler that returns a promise is awaited before the instruction counts as carried out. */
export interface InstanceHandlers {
  /** Run this match: exactly these players are promised a berth. */
  readonly match: (match: MatchAssignment) => void | Promise<void>;
  /** One more player is promised a berth in the match under way. */
  readonly expect?: (player: MatchAssignment["players"][number], run: string) => void | Promise<void>;
  /** Somebody looks on and is promised a berth of its own: it is to be shown the run so far behind. */
  readonly spectator?: (
    player: MatchAssignment["players"][number],
    delayMs: number,
    run: string,
  ) => void | Promise<void>;
  /** A player of the match has left its room: it is not to be waited for, and is let go of. */
  readonly release?: (player: string, run: string) => void | Promise<void>;
  /** The room's barrier has opened without some: begin with who is there. They may follow, each with a pass of its own. */
  readonly begin?: (run: string, without: readonly string[]) => void | Promise<void>;
  /** Something of the match is other than it was: the host, the settings, or players, whose side may be another. */
  readonly changed?: (change: MatchChange, run: string) => void | Promise<void>;
  /** Somebody else has decided that the run is over: its players are free to go. */
  readonly end?: (run: string, reason: string) => void | Promise<void>;
  /** Finish and exit; call {@link InstanceKit.goodbye} first. */
  readonly stop: (reason: string) => void | Promise<void>;
  /** The service does not answer; the kit goes on trying. */
  readonly unreachable?: (detail: string) => void;
  /** The service is done with this instance, or has been away for longer than the kit waits: exit. */
  readonly dismissed?: (detail: string) => void;
}

/** What is other than the match said: only what has changed is there. */
export type MatchChange = Partial<Pick<MatchAssignment, "host" | "settings" | "players">>;

/** What may be said of a run beside the standings. */
export interface ReportDetails {
  readonly sides?: Readonly<Record<string, number>>;
  /** Any JSON of up to 8 KiB: for the back end, and for members where the room kind says so. */
  readonly payload?: unknown;
  readonly note?: string;
}

/** Environment variables, as of `process.env`: said without Node's types, which those who use the kit may not have. */
export type Environment = Readonly<Record<string, string | undefined>>;

export interface KitEnvironment {
  readonly url: string;
  readonly key: string;
  readonly instance: string;
  readonly host: string;
  readonly port: number;
}

const BACK_OFF: BackOff = { firstMs: 200, maxMs: 3_000 };
const ANSWER_MS = 10_000;
const ORPHAN_MS = 600_000;

/** What the service gave the process in its environment. Throws when it was not started by a service. */
export function readEnvironment(env: Environment = process.env): KitEnvironment {
  const get = (name: string) => {
    const value = env[name];
    if (value === undefined || value === "")
      throw new Error(`${name} is not set; a Yellow Harbor service sets it for the instances it starts`);
    return value;
  };
  return {
    url: get(names.serviceUrl),
    key: get(names.key),
    instance: get(names.instance),
    host: get(names.host),
    port: Number(get(names.port)),
  };
}

/**
 * A dedicated server's line to the service: announce, poll, board, report, goodbye. While the service is away the kit
 * keeps trying, so that a match outlives a restart of the service.
 */
export class InstanceKit {
  readonly environment: KitEnvironment;
  readonly #handlers: InstanceHandlers;
  readonly #abort = new AbortController();
  /** Who is there, and for which run. */
  readonly #players = new Map<string, string>();
  readonly #orphanMs: number;
  #acknowledged = 0;

  /** @param orphanMs How long a service may be away before the instance is dismissed, so that none is left behind for ever. */
  constructor(handlers: InstanceHandlers, environment: KitEnvironment = readEnvironment(), orphanMs = ORPHAN_MS) {
    this.#handlers = handlers;
    this.environment = environment;
    this.#orphanMs = orphanMs;
  }

  /** Says that the process listens on its port, then polls until {@link goodbye}. Call it once the port is open. */
  async announce(): Promise<void> {
    await this.#persist("announce", { port: this.environment.port, pid: process.pid });
    void this.#poll();
  }

  /** Shows a player's pass. Resolves with who it is; throws {@link RefusedError} when the player must not be let in. */
  async board(pass: string): Promise<BoardReply> {
    const boarded = await this.#persist<BoardReply>("board", { pass, attempt: randomUUID() });
    this.#players.set(boarded.player.id, boarded.run);
    return boarded;
  }

  async unboard(player: string, reason: "left" | "lost" | "kicked"): Promise<void> {
    this.#players.delete(player);
    await this.#persist("unboard", { player, reason });
  }

  /** Removes a player from the match and from its room, for which it is told why; with `ban` for good. */
  async kick(player: string, { reason, ban = true }: { reason?: string; ban?: boolean } = {}): Promise<void> {
    this.#players.delete(player);
    await this.#persist("kick", { player, ban, ...(reason !== undefined && { reason }) });
  }

  /**
   * Reports how a run ended: a score for each player and, where there are sides, for each of them, higher is better; what became
   * of each player; and a payload of the game's own. Goes on trying while the service is away.
   */
  async report(run: string, standings: readonly ScoreRow[], more: ReportDetails = {}): Promise<void> {
    try {
      await this.#persist("report", { run, standings, ...more });
    } catch (error) {
      // Known already: the answer to the first call was lost with the service.
      if (!(error instanceof RefusedError && error.problem.code === "result-known")) throw error;
    }
    this.#forgetRun(run);
  }

  /** Whoever was there for a run that is over has no part in the next. */
  #forgetRun(run: string): void {
    for (const [player, theirs] of this.#players) if (theirs === run) this.#players.delete(player);
  }

  /** The last word before exit. Does not wait for a service that is away. */
  async goodbye(reason: string): Promise<void> {
    this.#abort.abort();
    const { url, key } = this.environment;
    await call("goodbye", { reason }, { url, key, patienceMs: 2_000 }).catch((error: unknown) => {
      if (!(error instanceof UnreachableError || error instanceof RefusedError)) throw error;
    });
  }

  async #poll(): Promise<void> {
    while (!this.#abort.signal.aborted) {
      try {
        const { instructions } = await this.#persist<PollReply>("poll", {
          acknowledged: this.#acknowledged,
          players: [...this.#players.keys()],
        });
        for (const instruction of instructions) await this.#carryOut(instruction);
      } catch (error) {
        if (this.#abort.signal.aborted) return;
        if (error instanceof RefusedError || error instanceof UnreachableError)
          return this.#handlers.dismissed?.(error.message);
        throw error;
      }
    }
  }

  async #carryOut(instruction: Instruction): Promise<void> {
    // An instruction is repeated until a poll says it was taken.
    if (instruction.number <= this.#acknowledged) return;
    switch (instruction.instruction) {
      case "match-assigned":
        await this.#handlers.match(instruction.match);
        break;
      case "expect-player":
        await this.#handlers.expect?.(instruction.player, instruction.run);
        break;
      case "expect-spectator":
        await this.#handlers.spectator?.(instruction.player, instruction.delayMs, instruction.run);
        break;
      case "release-player":
        await this.#handlers.release?.(instruction.player, instruction.run);
        this.#players.delete(instruction.player);
        break;
      case "match-started":
        await this.#handlers.begin?.(instruction.run, instruction.without);
        break;
      case "match-changed": {
        const { host, settings, players } = instruction;
        const change = { ...(host && { host }), ...(settings && { settings }), ...(players && { players }) };
        await this.#handlers.changed?.(change, instruction.run);
        break;
      }
      case "end-match":
        await this.#handlers.end?.(instruction.run, instruction.reason);
        this.#forgetRun(instruction.run);
        break;
      case "stop":
        await this.#handlers.stop(instruction.reason);
    }
    this.#acknowledged = instruction.number;
  }

  /** Calls until the service answers one way or the other. */
  async #persist<T>(step: string, body: object): Promise<T> {
    const { url, key } = this.environment;
    const begin = performance.now();
    for (let attempt = 1; ; attempt++) {
      try {
        return await call<T>(step, body, { url, key, signal: this.#abort.signal, patienceMs: ANSWER_MS });
      } catch (error) {
        if (!(error instanceof UnreachableError) || this.#abort.signal.aborted) throw error;
        if (performance.now() - begin > this.#orphanMs) {
          throw new UnreachableError(
            `the service has been away for ${Math.round(this.#orphanMs / 1000)} s (${error.message})`,
          );
        }
        this.#handlers.unreachable?.(error.message);
        await wait(pauseMs(attempt, BACK_OFF, Math.random), undefined, { signal: this.#abort.signal });
      }
    }
  }
}
