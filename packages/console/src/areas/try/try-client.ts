import { PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { PlayerAsk, Problem } from "@yellow-harbor/protocol";
import { type SeenFrame, slowSocket } from "./slow-socket.ts";

const FRAMES_MAX = 80;
/** Frames by which both ends only say that they are there. */
const QUIET: readonly string[] = ["heartbeat", "echo"];

/** What is shown of a client; a new one after each change. */
export interface TrySeen {
  readonly isConnected: boolean;
  /** Whether its line is cut on purpose. */
  readonly isCut: boolean;
  readonly isOver: boolean;
  readonly delayMs: number;
  readonly frames: readonly SeenFrame[];
  /** The last refusal, until something goes well. */
  readonly problem: Problem | undefined;
  /** What the last request brought. */
  readonly reply: unknown;
}

/** A player in this page: the SDK over a real connection, whose line can be cut and made slow. */
export class TryClient {
  readonly name: string;
  #player: PlayerClient | undefined;
  #seen: TrySeen = {
    isConnected: false,
    isCut: false,
    isOver: false,
    delayMs: 0,
    frames: [],
    problem: undefined,
    reply: undefined,
  };
  #frameCount = 0;
  #cut: (() => void) | undefined;
  readonly #listeners = new Set<() => void>();

  constructor(name: string) {
    this.name = name;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  readonly getSeen = (): TrySeen => this.#seen;

  get player(): PlayerClient | undefined {
    return this.#player;
  }

  async connect(build: string, lobby: string | undefined): Promise<void> {
    try {
      const player = await PlayerClient.connect({
        url: location.origin,
        name: this.name,
        build,
        ...(lobby && { lobby }),
        reconnect: { firstMs: 300, maxMs: 3_000 },
        socket: async (url, subprotocol) => {
          if (this.#seen.isCut) throw new Error("the line is cut");
          const delayMs = () => this.#seen.delayMs;
          const socket = await slowSocket(url, subprotocol, { delayMs, saw: this.#saw });
          this.#cut = () => socket.close();
          return socket;
        },
      });
      this.#player = player;
      player.on("ended", ({ problem }) => this.#set({ isOver: true, isConnected: false, problem }));
      for (const kind of ["lost", "resumed", "change", "ticket", "party", "pass", "invited"] as const) {
        player.on(kind, () => this.#set({ isConnected: player.isConnected }));
      }
      this.#set({ isConnected: true });
    } catch (error) {
      this.#set({ isOver: true, problem: problemOf(error) });
    }
  }

  /** Does something and keeps what came of it. */
  async act(act: (player: PlayerClient) => Promise<unknown>): Promise<void> {
    if (this.#player === undefined) return;
    try {
      this.#set({ reply: await act(this.#player), problem: undefined });
    } catch (error) {
      this.#set({ problem: problemOf(error) });
    }
  }

  ask(ask: PlayerAsk, args: unknown): Promise<void> {
    return this.act((player) => player.ask(ask, args as never));
  }

  /** Cuts the line, without a goodbye, or mends it: the SDK then comes back by itself. */
  setCut(isCut: boolean): void {
    this.#set({ isCut, ...(isCut && { isConnected: false }) });
    if (isCut) this.#cut?.();
  }

  setDelay(delayMs: number): void {
    this.#set({ delayMs });
  }

  async leave(): Promise<void> {
    if (this.#seen.isCut || !this.#seen.isConnected) this.#player?.drop();
    else await this.#player?.leave().catch(() => undefined);
  }

  readonly #saw = (way: SeenFrame["way"], text: string): void => {
    if (QUIET.some((frame) => text.startsWith(`{"frame":"${frame}"`))) return;
    const frame = { number: ++this.#frameCount, way, atMs: Date.now(), text };
    this.#set({ frames: [...this.#seen.frames, frame].slice(-FRAMES_MAX) });
  };

  #set(change: Partial<TrySeen>): void {
    this.#seen = { ...this.#seen, ...change };
    for (const listener of this.#listeners) listener();
  }
}

const problemOf = (error: unknown): Problem =>
  error instanceof ProblemError ? error.problem : ProblemError.of("usage", String(error)).problem;
