import {
  CSRF_HEADER,
  type OperatorRouteName,
  type OperatorRoutes,
  operatorRoutes,
  Problem,
  type RoutePart,
  reachCauseOf,
  reachText,
} from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import { type HttpAnswer, type SendHttp, sendByFetch } from "./send.ts";

export interface OperatorOptions {
  /** Address of the service, such as `http://127.0.0.1:7420`; empty for the page's own. */
  readonly url: string;
  /** Operator token; not needed on the service's own computer while it listens on loopback. */
  readonly token?: string;
  /** For a page of the console: the token of its session, which what changes something has to repeat. */
  readonly csrf?: string;
  /** What sends requests; the platform's fetch when left out. */
  readonly send?: SendHttp;
}

/** Asks the routes of the table over HTTP, and holds each answer against its schema. */
export class OperatorHttp {
  readonly #url: string;
  readonly #token: string | undefined;

  readonly #csrf: string | undefined;
  readonly #send: SendHttp;

  constructor({ url, token, csrf, send = sendByFetch }: OperatorOptions) {
    this.#csrf = csrf;
    this.#send = send;
    this.#url = url.replace(/\/$/, "");
    this.#token = token;
  }

  async call<N extends Answered>(name: N, given: Given = {}): Promise<AnswerOf<N>> {
    const { reply } = operatorRoutes[name];
    const told: unknown = await (await this.fetch(name, given)).json();
    const fits = reply.safeParse(told);
    if (!fits.success) throw unexpected(name, fits.error);
    // As it came, with what a newer service may say besides.
    return told as AnswerOf<N>;
  }

  async fetch(name: OperatorRouteName, given: Given = {}, signal?: AbortSignal): Promise<HttpAnswer> {
    const { method, path } = operatorRoutes[name];
    const body = method === "POST" ? (given.body ?? {}) : undefined;
    const asked = Object.entries(given.query ?? {}).flatMap(([key, value]): [string, string][] =>
      value === undefined ? [] : [[key, String(value)]],
    );
    const search = asked.length === 0 ? "" : `?${new URLSearchParams(asked)}`;
    const headers: Record<string, string> = {
      ...(this.#token !== undefined && { authorization: `Bearer ${this.#token}` }),
      ...given.headers,
      ...(this.#csrf !== undefined && { [CSRF_HEADER]: this.#csrf }),
    };
    let answer: HttpAnswer;
    try {
      answer = await this.#send(`${this.#url}${filledIn(path, given.params)}${search}`, {
        method,
        ...(body === undefined
          ? { headers }
          : { headers: { ...headers, "content-type": "application/json" }, body: JSON.stringify(body) }),
        ...(signal && { signal }),
      });
    } catch (error) {
      if (signal?.aborted) throw error;
      // What fetch throws tells nothing; its cause does, on Node.
      const cause = reachCauseOf((error as Error).cause ?? error);
      throw ProblemError.of(
        "service-unreachable",
        `No answer from ${this.#url || "this page's address"}. ${reachText(cause)}`,
      );
    }
    if (answer.status >= 200 && answer.status < 300) return answer;
    throw await problemOf(answer);
  }
}

/** What a request brings; the service checks it. */
export type Query = Record<string, string | number | boolean | undefined>;

export interface Given {
  readonly params?: Readonly<Record<string, string>>;
  readonly query?: Query;
  readonly body?: object;
  readonly headers?: Readonly<Record<string, string>>;
}

/** Routes that are answered with JSON. */
export type Answered = {
  [N in OperatorRouteName]: OperatorRoutes[N] extends { readonly reply: unknown } ? N : never;
}[OperatorRouteName];

export type AnswerOf<N extends Answered> = RoutePart<OperatorRoutes[N], "reply">;

const filledIn = (path: string, params: Given["params"] = {}): string =>
  path.replaceAll(/:(\w+)/g, (_whole, name: string) => encodeURIComponent(params[name] ?? ""));

function unexpected(
  name: string,
  { issues: [first] }: { issues: readonly { path: PropertyKey[]; message: string }[] },
) {
  const where = first === undefined ? "" : ` at ${first.path.join(".") || "its root"}: ${first.message}`;
  const detail = `The answer to ${name} is not what this client expects${where}. Client and service may be of different versions.`;
  return ProblemError.of("answer-unexpected", detail);
}

async function problemOf(answer: HttpAnswer): Promise<ProblemError> {
  const told = Problem.safeParse(await answer.json().catch(() => undefined));
  if (told.success) return new ProblemError(told.data);
  return ProblemError.of(
    "service-unreachable",
    `Something answers with status ${answer.status} that is not this service; is the address right?`,
  );
}
