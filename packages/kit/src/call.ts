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

/** POSTs JSON to the service. Throws {@link RefusedError} or {@link UnreachableError}. */
export async function call<T>(step: string, body: object, { url, key, signal, patienceMs }: CallOptions): Promise<T> {
  const timeout = AbortSignal.timeout(patienceMs);
  const abort = signal === undefined ? timeout : AbortSignal.any([signal, timeout]);
  let response: Response;
  let answer: unknown;
  try {
    response = await fetch(`${url}/v1/instance/${step}`, {
      method: "POST",
      headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
      body: JSON.stringify(body),
      signal: abort,
    });
    answer = await response.json();
  } catch (error) {
    throw new UnreachableError(`${step}: ${(error as Error).message}`);
  }
  if (response.ok) return answer as T;
  const told = answer as Partial<Problem>;
  if (response.status >= 500) throw new UnreachableError(`${step}: ${told.detail ?? response.status}`);
  throw new RefusedError({
    code: told.code ?? "internal",
    detail: told.detail ?? `status ${response.status}`,
    status: response.status,
  });
}
