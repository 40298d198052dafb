import { OperatorClient, ProblemError, type SendHttp, sendByFetch } from "@yellow-harbor/client";
import {
  type BackOff,
  type HarborView,
  type Problem,
  pauseMs,
  type WatchMessage,
  type WhoAmI,
} from "@yellow-harbor/protocol";

import { Patching } from "./patching.ts";

/** How the page stands with the service. */
export type Connection =
  | { readonly state: "connecting" }
  | { readonly state: "live"; readonly sinceMs: number }
  | { readonly state: "lost"; readonly sinceMs: number; readonly problem: Problem; readonly retryAtMs: number }
  | { readonly state: "key-needed"; readonly problem: Problem };

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
  /** Who looks; undefined until that is known. */
  readonly who: WhoAmI | undefined;
}

const STORY_LINES = 100;
/** The page is drawn so often at the most, whatever happens: the eye does not follow more. */
const DRAW_EVERY_MS = 100;
/** The longer it takes to draw, the rarer it is done: most of the time is for whoever clicks and scrolls. */
const DRAW_SHARE = 0.25;
const DRAW_EVERY_MAX_MS = 1_000;
const BACK_OFF: BackOff = { firstMs: 500, maxMs: 5_000 };
/** What a link has behind the hash that logs a browser in. */
const LINK = /^#log-in=([\w-]+)$/;
/** Codes of those who have to log in first. */
const NOT_LET_IN: readonly string[] = ["operator-token-needed", "session-ended", "keys-too-fast", "host-not-allowed"];

/** Follows the service's stream, comes back by itself, and hands the page one state for each drawn frame at most. */
export class HarborStore {
  #live: Live = { connection: { state: "connecting" }, state: undefined, story: [], who: undefined };
  readonly #listeners = new Set<() => void>();
  readonly #lookers = new Set<() => void>();
  #lines = 0;
  #isDrawDue = false;
  #drawnAtMs = 0;
  #drawMs = 0;
  /** What came since the page was drawn. */
  #patching: Patching<HarborView> | undefined;
  readonly #told: StoryLine[] = [];
  #abort: AbortController | undefined;
  #linkCode = takeLinkCode();

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  getLive = (): Live => this.#live;

  get operator(): OperatorClient {
    const csrf = this.#live.who?.csrf;
    return new OperatorClient({ url: "", send: this.#send, ...(csrf !== undefined && { csrf }) });
  }

  /** Calls back whenever something was done from this page, so that what it changed is looked at. */
  onAction = (look: () => void): (() => void) => {
    this.#lookers.add(look);
    return () => this.#lookers.delete(look);
  };

  #send: SendHttp = async (url, request) => {
    const answer = await sendByFetch(url, request);
    if (request.method === "POST") for (const look of this.#lookers) look();
    return answer;
  };

  start(): () => void {
    const abort = new AbortController();
    this.#abort = abort;
    void this.#follow(abort.signal);
    return () => abort.abort();
  }

  async logIn(key: string): Promise<void> {
    this.#set({ who: await this.operator.logIn({ key }) });
    this.#abort?.abort();
    this.start();
  }

  /** What was on screen is nobody's any more. */
  async logOut(): Promise<void> {
    await this.operator.logOut();
    location.reload();
  }

  /** Who looks: by the code of a link, which is used up with it, or by the session that there is. */
  async #whoLooks(): Promise<void> {
    const code = this.#linkCode;
    if (code !== undefined) {
      this.#linkCode = undefined;
      // A code that was used before does not matter to a browser that is logged in already.
      await this.operator.logIn({ code }).catch(() => undefined);
    }
    this.#set({ who: await this.operator.whoAmI() });
  }

  async #follow(signal: AbortSignal): Promise<void> {
    let attempt = 1;
    while (!signal.aborted) {
      let problem: Problem;
      try {
        await this.#whoLooks();
        for await (const message of this.operator.watch(signal)) {
          this.#take(message);
          attempt = 1;
        }
        problem = lost("The service closed the stream.");
      } catch (error) {
        problem = error instanceof ProblemError ? error.problem : lost("The connection was lost.");
      }
      if (signal.aborted) return;
      if (NOT_LET_IN.includes(problem.code)) {
        return this.#set({ connection: { state: "key-needed", problem }, state: undefined, who: undefined });
      }
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
      this.#patching = new Patching(message.state);
      return this.#set({ connection: { state: "live", sinceMs: Date.now() }, state: message.state });
    }
    const { text, atMs, patch } = message;
    this.#patching?.apply(patch);
    if (text !== undefined) this.#told.push({ number: ++this.#lines, atMs, text });
    if (this.#told.length > STORY_LINES) this.#told.shift();
    this.#set({});
  }

  readonly #draw = (): void => {
    this.#isDrawDue = false;
    this.#drawnAtMs = performance.now();
    const { state, story } = this.#live;
    const told = this.#told.splice(0);
    this.#live = {
      ...this.#live,
      ...(state && this.#patching && { state: this.#patching.look() }),
      ...(told.length > 0 && { story: [...story, ...told].slice(-STORY_LINES) }),
    };
    for (const listener of this.#listeners) listener();
    const begin = performance.now();
    // Behind what React has put off until the end of this turn.
    setTimeout(() => {
      this.#drawMs = performance.now() - begin;
    });
  };

  #set(change: Partial<Live>): void {
    this.#live = { ...this.#live, ...change };
    if (this.#isDrawDue) return;
    this.#isDrawDue = true;
    // Many events may come meanwhile; the page is drawn once for all of them, also one that is not in sight.
    const everyMs = Math.min(Math.max(DRAW_EVERY_MS, this.#drawMs / DRAW_SHARE), DRAW_EVERY_MAX_MS);
    setTimeout(this.#draw, Math.max(0, everyMs - (performance.now() - this.#drawnAtMs)));
  }
}

/** The code of a link that was followed. It goes from the address before anything else reads that. */
function takeLinkCode(): string | undefined {
  const [, code] = LINK.exec(location.hash) ?? [];
  if (code !== undefined) history.replaceState(null, "", location.pathname);
  return code;
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
