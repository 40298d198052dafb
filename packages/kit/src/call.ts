import { type IncomingMessage, Agent as PlainAgent, request as plainRequest } from "node:http";
import { Agent as SecureAgent, request as secureRequest } from "node:https";
import type { Problem } from "@yellow-harbor/protocol";

/** The service refused what the instance said. */
export class RefusedError extends Error {
  readonly problem: Pick<Problem, "code" | "detail" | "status">;
  constructor(problem: Pick<Problem, "code" | "detail" | "status">) {
    super(problem.detail);
    this.name = "RefusedError";
    this.problem = problem;
  }
}

/** The service did not answer; it may be restarting. */
export class UnreachableError extends Error {}

export interface CallOptions {
  readonly url: string;
  readonly key: string;
  readonly signal?: AbortSignal;
  readonly patienceMs: number;
}

// One connection for polls and one for the rest, kept open: a start waits for what the instance says here, and fetch
// takes several times as long.
const plain = { request: plainRequest, agent: new PlainAgent({ keepAlive: true }) };
const secure = { request: secureRequest, agent: new SecureAgent({ keepAlive: true }) };

/** POSTs JSON to the service. Throws {@link RefusedError} or {@link UnreachableError}. */
export async function call<T>(step: string, body: object, options: CallOptions): Promise<T> {
  let status: number;
  let answer: unknown;
  try {
    const response = await post(step, JSON.stringify(body), options);
    status = response.statusCode ?? 0;
    answer = JSON.parse(await textOf(response));
  } catch (error) {
    throw new UnreachableError(`${step}: ${(error as Error).message}`);
  }
  if (status >= 200 && status < 300) return answer as T;
  const told = answer as Partial<Problem>;
  if (status >= 500) throw new UnreachableError(`${step}: ${told.detail ?? status}`);
  throw new RefusedError({ code: told.code ?? "internal", detail: told.detail ?? `status ${status}`, status });
}

function post(step: string, body: string, { url, key, signal, patienceMs }: CallOptions): Promise<IncomingMessage> {
  const { request, agent } = url.startsWith("https:") ? secure : plain;
  return new Promise((resolve, reject) => {
    const headers = {
      authorization: `Bearer ${key}`,
      "content-type": "application/json",
      "content-length": Buffer.byteLength(body),
    };
    const asked = request(`${url}/v1/instance/${step}`, { method: "POST", agent, headers, ...(signal && { signal }) });
    const late = setTimeout(() => asked.destroy(new Error(`no answer within ${patienceMs / 1000} s`)), patienceMs);
    asked.on("response", resolve);
    asked.on("error", reject);
    asked.on("close", () => clearTimeout(late));
    asked.end(body);
  });
}

function textOf(response: IncomingMessage): Promise<string> {
  return new Promise((resolve, reject) => {
    let text = "";
    response.setEncoding("utf8");
    response.on("data", (part: string) => {
      text += part;
    });
    response.on("end", () => resolve(text));
    response.on("error", reject);
  });
}
