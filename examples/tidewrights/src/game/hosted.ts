import type { AddressInfo } from "node:net";
import { createServer, type Server, type Socket } from "node:net";
import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { RoomView } from "@yellow-harbor/protocol";
import { TideMatch } from "../server/tide-match.ts";
import { readLines, writeLine } from "./lines.ts";
import { type ClientLine, crewOf, type ServerLine } from "./wire.ts";

export interface HostedOptions {
  readonly tideMs: number;
  /** Address to listen on and to offer. */
  readonly host?: string;
}

/**
 * The world of a room, run by one of its members on its own computer: the same that a dedicated server speaks, with the
 * service asked about each pass through the member's own connection.
 */
export class HostedTide {
  readonly #player: PlayerClient;
  readonly #options: HostedOptions;
  readonly #server: Server;
  readonly #aboard = new Map<string, Socket>();
  /** Who looks on, and how far behind the run it is shown it, in milliseconds. */
  readonly #watching = new Map<Socket, number>();
  #match: TideMatch | undefined;

  constructor(player: PlayerClient, options: HostedOptions) {
    this.#player = player;
    this.#options = options;
    this.#server = createServer((socket) => this.#accept(socket));
  }

  /** Listens, offers itself to the room, and plays one run. Resolves with whether the run was played here, when it is over. */
  async run(): Promise<boolean> {
    const { host = "127.0.0.1" } = this.#options;
    const { room } = this.#player.state;
    const run = room?.run;
    if (room === undefined || run === undefined) throw new Error("there is no run to play");
    const players = Object.values(room.members).map(({ id, name, place }) => ({ id, name, place }));
    this.#match = new TideMatch({ room: room.id, run, level: room.level?.id ?? "", players });
    await new Promise<void>((resolve) => this.#server.listen(0, host, resolve));
    const { port } = this.#server.address() as AddressInfo;
    try {
      await this.#player.travel.offer([{ host, port }]);
      const isHere = (now: RoomView | undefined) => now?.travel === undefined || now.travel.by === "player-hosted";
      await this.#player.until(({ room: now }) => now?.run !== run || now.phase === "playing" || !isHere(now), 120_000);
      const { room: now } = this.#player.state;
      // The room may have been sent another way, since nobody could get in here.
      if (now?.run !== run || !isHere(now)) return false;
      await this.#play();
      await this.#player.until(({ room: then }) => then?.run !== run, 30_000);
      return true;
    } finally {
      for (const socket of this.#aboard.values()) socket.end();
      // What they are shown late comes before the end.
      for (const [socket, behindMs] of this.#watching) setTimeout(() => socket.end(), behindMs + 100).unref();
      this.#server.close();
    }
  }

  /** The host lays stones too, then says who won. */
  async #play(): Promise<void> {
    const match = this.#match;
    if (match === undefined) return;
    const { tideMs } = this.#options;
    this.#tell({ tide: { inMs: tideMs, players: match.names } });
    const laying = setInterval(() => this.#lay(this.#player.id, 5), 150);
    await new Promise((resolve) => setTimeout(resolve, tideMs));
    clearInterval(laying);
    const { winner, walls, standings, note } = match.finish();
    // Who has left meanwhile is in no standing.
    const members = this.#player.state.room?.members ?? {};
    const present = standings.filter(({ player }) => Object.hasOwn(members, player));
    await this.#player.ask("room.set-result", { standings: present, note });
    this.#tell({ over: { winner, walls } });
  }

  #accept(socket: Socket): void {
    let player: string | undefined;
    socket.on("error", () => socket.destroy());
    socket.on("close", () => {
      if (player !== undefined) this.#aboard.delete(player);
      this.#watching.delete(socket);
    });
    readLines(socket, (value) => {
      const line = value as ClientLine;
      if ("pass" in line) {
        void this.#board(socket, String(line.pass)).then((boarded) => {
          player = boarded;
        });
      } else if (player !== undefined && "stone" in line) this.#lay(player, line.stone);
    });
  }

  /** It is told how the run ends, as late as the room wants it. */
  #letWatch(socket: Socket, name: string, level: string): undefined {
    const behindMs = this.#player.state.room?.spectators?.delayMs ?? 0;
    this.#watching.set(socket, behindMs);
    writeLine(socket, { watching: { name, level, behindMs } } satisfies ServerLine);
    return undefined;
  }

  async #board(socket: Socket, pass: string): Promise<string | undefined> {
    try {
      const { player, level, spectator } = await this.#player.travel.board(pass);
      if (spectator) return this.#letWatch(socket, player.name, level);
      this.#match?.expect(player);
      this.#match?.board(player.id);
      this.#aboard.set(player.id, socket);
      const boarded = { player: player.id, name: player.name, crew: crewOf(player.place), level };
      writeLine(socket, { boarded } satisfies ServerLine);
      return player.id;
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      writeLine(socket, { refused: { code: error.code, detail: error.message } } satisfies ServerLine);
      socket.end();
      return undefined;
    }
  }

  #lay(player: string, stone: unknown): void {
    const walls = this.#match?.lay(player, stone);
    if (walls) this.#tell({ walls });
  }

  #tell(line: ServerLine): void {
    for (const socket of this.#aboard.values()) writeLine(socket, line);
    for (const [socket, behindMs] of this.#watching) setTimeout(() => writeLine(socket, line), behindMs).unref();
  }
}
