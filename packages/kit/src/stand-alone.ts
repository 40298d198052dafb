import { randomBytes } from "node:crypto";
import type { BoardReply, MatchAssignment, ScoreRow } from "@yellow-harbor/protocol";
import { RefusedError } from "./call.ts";
import {
  type Environment,
  type InstanceHandlers,
  InstanceKit,
  type KitEnvironment,
  type ReportDetails,
  readEnvironment,
} from "./instance-kit.ts";

export interface StandAloneOptions {
  /** Port to listen on; 7500 when absent. */
  readonly port?: number;
  /** Level of the matches; `practice` when absent. */
  readonly level?: string;
  /** Names of those who are promised a berth; two when absent. */
  readonly players?: readonly string[];
  /** What is said meanwhile; printed when absent. */
  readonly say?: (text: string) => void;
}

/** What a server needs of either kit. */
export type Kit = Pick<InstanceKit, "environment" | "announce" | "board" | "unboard" | "kick" | "report" | "goodbye">;

const id = (prefix: string) => `${prefix}_${randomBytes(9).toString("hex").slice(0, 12)}`;

/**
 * The kit without a service, to develop with: it gives the server one match after the other, and a player's pass is its
 * name. The rest is as it would be: who is not promised a berth is refused, and so is who boards twice.
 */
export class StandAloneKit implements Kit {
  readonly environment: KitEnvironment;
  readonly #handlers: InstanceHandlers;
  readonly #options: Required<StandAloneOptions>;
  readonly #aboard = new Set<string>();
  #match: MatchAssignment | undefined;
  #isOver = false;

  constructor(handlers: InstanceHandlers, options: StandAloneOptions = {}) {
    this.#handlers = handlers;
    this.#options = {
      port: 7_500,
      level: "practice",
      players: ["Ansel", "Brisa"],
      say: (text) => console.log(text),
      ...options,
    };
    const { port } = this.#options;
    this.environment = { url: "", key: "", instance: id("i"), host: "127.0.0.1", port };
  }

  /** Gives the first match at once. */
  async announce(): Promise<void> {
    const { say, players } = this.#options;
    say(`stand-alone on port ${this.environment.port}: show a name as the pass, one of ${players.join(", ")}`);
    await this.#next();
  }

  /** @throws {RefusedError} when the name has no berth, or has boarded. */
  async board(pass: string): Promise<BoardReply> {
    const match = this.#match;
    const player = match?.players.find(({ name }) => name === pass.trim());
    if (match === undefined || player === undefined) {
      const names = match?.players.map(({ name }) => name).join(", ");
      throw refused("berth-unknown", `No berth is kept for ${pass}; there are ${names}.`);
    }
    if (this.#aboard.has(player.id)) throw refused("pass-used", `${player.name} has boarded already.`);
    this.#aboard.add(player.id);
    const { room, run, level } = match;
    return { player, room, run, level };
  }

  async unboard(player: string, reason: "left" | "lost" | "kicked"): Promise<void> {
    this.#aboard.delete(player);
    this.#options.say(`${player} is off: ${reason}`);
  }

  async kick(player: string, { reason }: { reason?: string } = {}): Promise<void> {
    this.#aboard.delete(player);
    this.#options.say(`${player} is removed${reason === undefined ? "" : `: ${reason}`}`);
  }

  /** Says the result, and gives the next match. @throws {RefusedError} when the run is not the one under way. */
  async report(run: string, standings: readonly ScoreRow[], { note }: ReportDetails = {}): Promise<void> {
    const match = this.#match;
    if (match?.run !== run) throw refused("match-unknown", `There is no match with run ${run}.`);
    const nameOf = new Map(match.players.map((one) => [one.id, one.name]));
    const scores = standings.map(({ player, score }) => `${nameOf.get(player) ?? player} ${score}`);
    this.#options.say(`result: ${scores.join(", ")}${note === undefined ? "" : ` (${note})`}`);
    this.#match = undefined;
    this.#aboard.clear();
    // As from a service: the next match comes after the report was answered.
    setImmediate(() => void this.#next());
  }

  async goodbye(reason: string): Promise<void> {
    this.#isOver = true;
    this.#options.say(`goodbye: ${reason}`);
  }

  async #next(): Promise<void> {
    if (this.#isOver) return;
    const { level, players } = this.#options;
    const match = {
      room: id("r"),
      run: id("u"),
      level,
      players: players.map((name, place) => ({ id: id("p"), name, place })),
    };
    this.#match = match;
    await this.#handlers.match(match);
  }
}

const refused = (code: "berth-unknown" | "pass-used" | "match-unknown", detail: string) =>
  new RefusedError({ code, detail, status: 409 });

/** The kit of the service that has started this process; without one the stand-alone kit, so that the same server runs by hand. */
export function openKit(handlers: InstanceHandlers, options?: StandAloneOptions, env: Environment = process.env): Kit {
  const isStarted = (env.YELLOW_HARBOR_URL ?? "") !== "";
  return isStarted ? new InstanceKit(handlers, readEnvironment(env)) : new StandAloneKit(handlers, options);
}
