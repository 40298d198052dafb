import {
  PLAY_PATH,
  type Problem,
  type ProblemCode,
  problem,
  problemTable,
  type RelayedBytes,
  reachCauseOf,
  reachText,
  readRelayedBytes,
  ServiceFrame,
  type Waiting,
  type Welcome,
  WIRE_SUBPROTOCOL,
} from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import { mayRetry } from "./retry.ts";
import { platformSocket, SOCKET_OPEN, type SocketLike, type SocketMaker, socketUrl } from "./socket.ts";

export interface LinkOptions {
  /** Address of the service, such as `http://127.0.0.1:7420`. */
  readonly url: string;
  /** How to make a WebSocket; the platform's own when absent. */
  readonly socket?: SocketMaker;
  /** How long to wait for the welcome and for each answer, in milliseconds; 10 s when absent. */
  readonly patienceMs?: number;
  /** Whether each frame is held against the schemas. Off by default: the service checks what it sends. */
  readonly strict?: boolean;
}

/** How a connection ended, and whether it makes sense to resume. */
export interface LinkEnd {
  readonly problem: Problem;
  readonly mayResume: boolean;
}

/** Called the moment a frame is read: several may come in one turn, and each is to be taken before the next. */
interface LinkEvents {
  readonly welcome: (welcome: Welcome) => void;
  readonly reply: (reply: Record<string, unknown>) => void;
  readonly waiting: (waiting: Waiting) => void;
  readonly frame: (frame: ServiceFrame) => void;
  readonly relayedBytes: (message: RelayedBytes) => void;
  /** Anything at all came. */
  readonly heard: () => void;
  readonly end: (end: LinkEnd) => void;
}

interface Asked {
  /** Called the moment the reply is read, before any frame that comes after it. */
  readonly taken: ((reply: Record<string, unknown>) => void) | undefined;
  readonly resolve: (reply: Record<string, unknown>) => void;
  readonly reject: (error: Error) => void;
  readonly timer: ReturnType<typeof setTimeout>;
}

const PATIENCE_MS = 10_000;

/** What cannot even be made is as good as a service that does not answer: it is tried again. */
async function socketTo(url: string, make: SocketMaker): Promise<SocketLike> {
  try {
    return await make(url, WIRE_SUBPROTOCOL);
  } catch (fault) {
    throw new ProblemError(unreachable(url, fault));
  }
}

const unreachable = (url: string, fault: unknown): Problem =>
  problem("service-unreachable", `No connection to ${url}. ${reachText(reachCauseOf(fault))}`);

/** One WebSocket: frames in and out, answers matched to requests. */
export class Link {
  readonly #socket: SocketLike;
  readonly #patienceMs: number;
  readonly #strict: boolean;
  readonly #events: LinkEvents;
  readonly #asked = new Map<number, Asked>();
  #askedCount = 0;
  #isOver = false;
  #greeting: { resolve: (welcome: Welcome) => void; reject: (error: Error) => void; again: () => void } | undefined;
  #closing: Problem | undefined;

  private constructor(
    socket: SocketLike,
    { patienceMs = PATIENCE_MS, strict = false }: LinkOptions,
    events: LinkEvents,
  ) {
    this.#socket = socket;
    this.#patienceMs = patienceMs;
    this.#strict = strict;
    this.#events = events;
  }

  static async open(options: LinkOptions, events: LinkEvents): Promise<Link> {
    const url = socketUrl(options.url, PLAY_PATH);
    const link = new Link(await socketTo(url, options.socket ?? platformSocket), options, events);
    await link.#opened(url);
    return link;
  }

  get isOpen(): boolean {
    return this.#socket.readyState === SOCKET_OPEN;
  }

  hello(hello: object): Promise<Welcome> {
    return new Promise((resolve, reject) => {
      const late = () => {
        reject(
          ProblemError.of(
            "service-unreachable",
            `The service did not answer the hello within ${this.#patienceMs / 1000} s.`,
          ),
        );
        this.close();
      };
      let timer = setTimeout(late, this.#patienceMs);
      this.#greeting = {
        resolve: (welcome) => {
          clearTimeout(timer);
          resolve(welcome);
        },
        reject: (error) => {
          clearTimeout(timer);
          reject(error);
        },
        // Who waits in line is told so every few seconds.
        again: () => {
          clearTimeout(timer);
          timer = setTimeout(late, this.#patienceMs);
        },
      };
      this.#socket.send(JSON.stringify(hello));
    });
  }

  request(
    ask: string,
    args: object,
    taken?: (reply: Record<string, unknown>) => void,
  ): Promise<Record<string, unknown>> {
    const id = ++this.#askedCount;
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.#asked.delete(id);
        reject(
          ProblemError.of(
            "service-unreachable",
            `The service did not answer ${ask} within ${this.#patienceMs / 1000} s.`,
          ),
        );
      }, this.#patienceMs);
      this.#asked.set(id, { resolve, reject, timer, taken });
      this.#socket.send(JSON.stringify({ frame: "request", id, ask, args }));
    });
  }

  /** Sends a frame that has no answer of its own. */
  send(frame: object): void {
    if (this.isOpen) this.#socket.send(JSON.stringify(frame));
  }

  sendBytes(frame: Uint8Array<ArrayBuffer>): void {
    this.#socket.send(frame);
  }

  /** Drops the socket as if it were lost, so that the state is fetched anew. */
  reset(why = "an update is missing"): void {
    this.#socket.close(4000, why);
    // A dead connection never answers the closing handshake; nobody waits for it.
    this.#end(4000, why, problem("connection-silent", `The connection was given up: ${why}.`));
  }

  close(): void {
    this.#socket.close(1000, "goodbye");
  }

  #opened(url: string): Promise<void> {
    return new Promise((resolve, reject) => {
      const socket = this.#socket;
      let fault: unknown;
      // Whoever takes a connection and never answers is as good as away.
      const late = setTimeout(() => {
        fault = new Error(`no answer within ${this.#patienceMs / 1000} s`);
        socket.close();
      }, this.#patienceMs);
      socket.addEventListener("open", () => {
        clearTimeout(late);
        resolve();
      });
      socket.binaryType = "arraybuffer";
      socket.addEventListener("message", ({ data }) => {
        if (data instanceof ArrayBuffer) this.#hearBytes(new Uint8Array(data));
        else this.#hear(String(data));
      });
      socket.addEventListener("error", (event) => {
        fault ??= (event as { error?: unknown }).error ?? event;
      });
      socket.addEventListener("close", ({ code, reason: said }) => {
        clearTimeout(late);
        const away = unreachable(url, fault);
        reject(new ProblemError(away));
        this.#end(code, said, away);
      });
    });
  }

  /** One of a kind that a newer service sends is passed over. */
  #hearBytes(frame: Uint8Array): void {
    if (this.#isOver) return;
    this.#events.heard();
    const message = readRelayedBytes(frame);
    if (message) this.#events.relayedBytes(message);
  }

  #hear(text: string): void {
    if (this.#isOver) return;
    this.#events.heard();
    const value: unknown = JSON.parse(text);
    const frame = this.#strict ? ServiceFrame.parse(value) : (value as ServiceFrame);
    switch (frame.frame) {
      case "welcome":
        this.#events.welcome(frame);
        this.#greeting?.resolve(frame);
        this.#greeting = undefined;
        return;
      case "waiting":
        this.#greeting?.again();
        return this.#events.waiting(frame);
      case "closing":
        this.#closing = frame.problem;
        return;
      case "reply":
        return this.#answer(frame);
      default:
        this.#events.frame(frame);
    }
  }

  #answer(frame: Extract<ServiceFrame, { frame: "reply" }>): void {
    const asked = this.#asked.get(frame.id);
    if (asked === undefined) return;
    this.#asked.delete(frame.id);
    clearTimeout(asked.timer);
    if ("problem" in frame) return asked.reject(new ProblemError(frame.problem));
    this.#events.reply(frame.reply);
    asked.taken?.(frame.reply);
    asked.resolve(frame.reply);
  }

  #end(code: number, reason: string, unreachable: Problem): void {
    if (this.#isOver) return;
    this.#isOver = true;
    const cause = this.#closing ?? problemOfClose(code, reason) ?? unreachable;
    const error = new ProblemError(cause);
    this.#greeting?.reject(error);
    for (const { reject, timer } of this.#asked.values()) {
      clearTimeout(timer);
      reject(error);
    }
    this.#asked.clear();
    this.#events.end({ problem: cause, mayResume: mayRetry(cause) });
  }
}

/** The service puts the code of the problem into the reason of the close frame. */
function problemOfClose(code: number, reason: string): Problem | undefined {
  if (code < 4400) return undefined;
  if (!Object.hasOwn(problemTable, reason)) {
    // A code of a newer service: nobody knows that trying again would help.
    return problem("answer-unexpected", `The service closed the connection with ${code} (${reason || "no reason"}).`);
  }
  const known = reason as ProblemCode;
  return problem(known, `${problemTable[known].title}.`);
}
