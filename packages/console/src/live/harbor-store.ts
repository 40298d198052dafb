import { mergePatch, OperatorClient, ProblemError } from "@yellow-harbor/client";
import { type BackOff, type HarborView, type Problem, pauseMs, type WatchMessage } from "@yellow-harbor/protocol";

/** How the page stands with the service. */
export type Connection =
  | { readonly state: "connecting" }
  | { readonly state: "live"; readonly sinceMs: number }
  | { readonly state: "lost"; readonly sinceMs: number; readonly problem: Problem; readonly retryAtMs: number }
  | { readonly state: "token-needed"; readonly problem: Problem };

export interface StoryLine {
  readonly number: number;
  readonly atMs: number;
  readonly text: string;
}

export interface Live {
  readonly connection: Connection;
  /** The last state that came; kept on screen, marked as old, while the service is lost. */
  readonly state: HarborView | undefined;
  readonly story: readonly StoryLine[];
}

const STORY_LINES = 200;
const BACK_OFF: BackOff = { firstMs: 500, maxMs: 5_000 };
const TOKEN_KEY = "yellow-harbor-token";

/** Follows the service's stream, comes back by itself, and hands the page one state for each drawn frame at most. */
export class HarborStore {
  #live: Live = { connection: { state: "connecting" }, state: undefined, story: [] };
  readonly #listeners = new Set<() => void>();
  #lines = 0;
  #isDrawDue = false;
  #abort: AbortController | undefined;

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  getLive = (): Live => this.#live;

  get operator(): OperatorClient {
    const token = sessionStorage.getItem(TOKEN_KEY);
    return new OperatorClient({ url: "", ...(token !== null && { token }) });
  }

  start(): () => void {
    const abort = new AbortController();
    this.#abort = abort;
    void this.#follow(abort.signal);
    return () => abort.abort();
  }

  signIn(token: string): void {
    sessionStorage.setItem(TOKEN_KEY, token);
    this.#abort?.abort();
    this.start();
  }

  async #follow(signal: AbortSignal): Promise<void> {
    let attempt = 1;
    while (!signal.aborted) {
      let problem: Problem;
      try {
        for await (const message of this.operator.watch(signal)) {
          this.#take(message);
          attempt = 1;
        }
        problem = lost("The service closed the stream.");
      } catch (error) {
        problem = error instanceof ProblemError ? error.problem : lost("The connection was lost.");
      }
      if (signal.aborted) return;
      if (problem.code === "operator-token-needed")
        return this.#set({ connection: { state: "token-needed", problem } });
      const before = this.#live.connection;
      const now = Date.now();
      const sinceMs = before.state === "lost" ? before.sinceMs : now;
      const inMs = pauseMs(attempt, BACK_OFF, Math.random);
      this.#set({ connection: { state: "lost", sinceMs, problem, retryAtMs: now + inMs } });
      await pause(inMs, signal);
      attempt += 1;
    }
  }

  #take(message: WatchMessage): void {
    if (message.message === "state") {
      return this.#set({ connection: { state: "live", sinceMs: Date.now() }, state: message.state });
    }
    const { state, story } = this.#live;
    const { text, atMs, patch } = message;
    const added = text === undefined ? story : [...story, { number: ++this.#lines, atMs, text }].slice(-STORY_LINES);
    this.#set({ ...(state && { state: mergePatch(state, patch) }), story: added });
  }

  #set(change: Partial<Live>): void {
    this.#live = { ...this.#live, ...change };
    if (this.#isDrawDue) return;
    this.#isDrawDue = true;
    // Many events may come within one frame; the page is drawn once for all of them.
    requestAnimationFrame(() => {
      this.#isDrawDue = false;
      for (const listener of this.#listeners) listener();
    });
  }
}

const lost = (detail: string): Problem => ProblemError.of("service-unreachable", detail).problem;

const pause = (ms: number, signal: AbortSignal) =>
  new Promise<void>((resolve) => {
    const timer = setTimeout(resolve, ms);
    signal.addEventListener("abort", () => {
      clearTimeout(timer);
      resolve();
    });
  });
