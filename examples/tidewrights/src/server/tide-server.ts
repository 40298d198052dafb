import { createServer, type Server, type Socket } from "node:net";
import { InstanceKit, RefusedError } from "@yellow-harbor/kit";
import type { MatchAssignment } from "@yellow-harbor/protocol";
import { readLines, writeLine } from "../game/lines.ts";
import { type ClientLine, crewOf, type ServerLine } from "../game/wire.ts";
import { TideMatch } from "./tide-match.ts";

export interface TideOptions {
  /** How long a match lasts once everybody is aboard. */
  readonly tideMs: number;
  readonly say: (text: string) => void;
}

/** The dedicated server: one match at a time, as the service instructions. */
export class TideServer {
  readonly #options: TideOptions;
  readonly #kit: InstanceKit;
  readonly #server: Server;
  #aboard = new Map<string, Socket>();
  /** Who looks on, and how far behind. */
  #watching = new Map<string, { readonly socket: Socket; readonly behindMs: number }>();
  #match: TideMatch | undefined;
  #tide: { readonly timer: NodeJS.Timeout; readonly endsAtMs: number } | undefined;
  #isStopping = false;

  constructor(options: TideOptions) {
    this.#options = options;
    this.#server = createServer((socket) => this.#accept(socket));
    this.#kit = new InstanceKit({
      match: (order) => this.#take(order),
      expect: (player) => this.#match?.expect(player),
      spectator: ({ name }, delayMs) => options.say(`${name} may look on, ${delayMs} ms behind`),
      release: (player) => this.#release(player),
      begin: () => this.#match && this.#start(this.#match),
      end: (_run, reason) => this.#end(reason),
      stop: (reason) => this.stop(reason),
      unreachable: (detail) => options.say(`the service does not answer: ${detail}`),
      dismissed: (detail) => {
        options.say(`dismissed: ${detail}`);
        process.exit(1);
      },
    });
  }

  /** Listens, then announces: the port is open before anybody hears of it. */
  async start(): Promise<void> {
    const { port, instance } = this.#kit.environment;
    await new Promise<void>((resolve, reject) => {
      this.#server.once("error", reject);
      this.#server.listen(port, resolve);
    });
    this.#options.say(`${instance} listens on port ${port}`);
    await this.#kit.announce();
    this.#options.say("announced");
  }

  /** Says goodbye and lets the process end by itself. */
  async stop(reason: string): Promise<void> {
    if (this.#isStopping) return;
    this.#isStopping = true;
    this.#options.say(`stopping: ${reason}`);
    clearTimeout(this.#tide?.timer);
    for (const socket of this.#aboard.values()) socket.destroy();
    this.#server.close();
    await this.#kit.goodbye(reason);
  }

  #take(order: MatchAssignment): void {
    this.#match = new TideMatch(order);
    this.#options.say(
      `match ${order.run} on ${order.level} for ${order.players.map((player) => player.name).join(", ")}`,
    );
  }

  #accept(socket: Socket): void {
    let player: string | undefined;
    let isBoarding = false;
    socket.on("error", () => socket.destroy());
    readLines(socket, (value) => {
      const line = value as ClientLine;
      if (player === undefined && !isBoarding && "pass" in line) {
        isBoarding = true;
        void this.#board(socket, String(line.pass)).then((boarded) => {
          player = boarded;
        });
      } else if (player !== undefined && "stone" in line) {
        const walls = this.#match?.lay(player, line.stone);
        if (walls) this.#tell({ walls });
      }
    });
    socket.on("close", () => {
      const isOurs = this.#aboard.get(player ?? "") === socket || this.#watching.get(player ?? "")?.socket === socket;
      if (player === undefined || !isOurs) return;
      this.#aboard.delete(player);
      this.#watching.delete(player);
      this.#options.say(`${player} is gone`);
      // The service takes this as update, not as a question: whatever it answers, the player is gone.
      void this.#kit.unboard(player, "left").catch(() => undefined);
    });
  }

  async #board(socket: Socket, pass: string): Promise<string | undefined> {
    try {
      const { player, level, spectator } = await this.#kit.board(pass);
      const match = this.#match;
      if (match === undefined) return undefined;
      if (spectator) return this.#letWatch(socket, player, match);
      this.#aboard.set(player.id, socket);
      match.board(player.id);
      this.#options.say(`${player.name} is aboard`);
      writeLine(socket, {
        boarded: { player: player.id, name: player.name, crew: crewOf(player.place), level },
      } satisfies ServerLine);
      if (this.#tide) writeLine(socket, this.#tideLine(match, this.#tide.endsAtMs - Date.now()));
      else this.#startWhenComplete(match);
      return player.id;
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error;
      const { code, detail } = error.problem;
      this.#options.say(`a pass is refused: ${code}`);
      writeLine(socket, { refused: { code, detail } } satisfies ServerLine);
      socket.end();
      return undefined;
    }
  }

  #letWatch(socket: Socket, { id, name }: { readonly id: string; readonly name: string }, match: TideMatch): string {
    const behindMs = match.order.spectators?.delayMs ?? 0;
    this.#watching.set(id, { socket, behindMs });
    this.#options.say(`${name} looks on`);
    writeLine(socket, { watching: { name, level: match.order.level, behindMs } } satisfies ServerLine);
    return id;
  }

  #startWhenComplete(match: TideMatch): void {
    if (match.everybodyIsAboard) this.#start(match);
  }

  #start(match: TideMatch): void {
    if (this.#tide !== undefined) return;
    const { tideMs, say } = this.#options;
    say(
      `${match.everybodyIsAboard ? "everybody is aboard" : "not everybody is aboard"}; the tide is in after ${tideMs} ms`,
    );
    this.#tell(this.#tideLine(match, tideMs));
    this.#tide = { timer: setTimeout(() => void this.#finish(match), tideMs), endsAtMs: Date.now() + tideMs };
  }

  #tideLine(match: TideMatch, inMs: number): ServerLine {
    return { tide: { inMs: Math.max(0, inMs), players: match.names } };
  }

  /** Somebody has left the room: nobody waits for it any more. */
  #release(player: string): void {
    const match = this.#match;
    match?.release(player);
    const socket = this.#aboard.get(player) ?? this.#watching.get(player)?.socket;
    this.#aboard.delete(player);
    this.#watching.delete(player);
    socket?.end();
    if (match) this.#startWhenComplete(match);
  }

  /** The result was set by somebody else. */
  #end(reason: string): void {
    if (this.#match === undefined) return;
    const { winner, walls } = this.#match.finish();
    this.#options.say(`the match is ended: ${reason}`);
    letGo(this.#clear(), { over: { winner, walls } });
  }

  async #finish(match: TideMatch): Promise<void> {
    const { winner, walls, standings, note } = match.finish();
    this.#options.say(note);
    // The next match may be assigned the moment the result is known: nothing of this one may be in its way by then.
    const leaving = this.#clear();
    await this.#kit.report(match.order.run, standings, { note, payload: { winner, walls } });
    letGo(leaving, { over: { winner, walls } });
  }

  /** Makes room for the next match; returns who played this one. */
  #clear(): Leaving {
    clearTimeout(this.#tide?.timer);
    this.#tide = undefined;
    this.#match = undefined;
    const players = [...this.#aboard.values()];
    this.#aboard = new Map();
    const watching = [...this.#watching.values()];
    this.#watching = new Map();
    return { players, watching };
  }

  #tell(line: ServerLine): void {
    for (const socket of this.#aboard.values()) writeLine(socket, line);
    for (const { socket, behindMs } of this.#watching.values()) later(behindMs, () => writeLine(socket, line));
  }
}

/** What spectators see comes after its time; it keeps no process alive. */
function later(ms: number, act: () => void): void {
  if (ms === 0) act();
  else setTimeout(act, ms).unref();
}

interface Leaving {
  readonly players: readonly Socket[];
  readonly watching: readonly { readonly socket: Socket; readonly behindMs: number }[];
}

function letGo({ players, watching }: Leaving, line: ServerLine): void {
  const part = (socket: Socket) => {
    writeLine(socket, line);
    socket.end();
  };
  for (const socket of players) part(socket);
  for (const { socket, behindMs } of watching) later(behindMs, () => part(socket));
}
