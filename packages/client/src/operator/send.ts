/** A request over HTTP. */
export interface HttpRequest {
  readonly method: "GET" | "POST";
  readonly headers: Readonly<Record<string, string>>;
  readonly body?: string;
  readonly signal?: AbortSignal;
}

/** An answer over HTTP, whose body is read once: as JSON, or as it comes. */
export interface HttpAnswer {
  readonly status: number;
  readonly json: () => Promise<unknown>;
  readonly bytes: () => AsyncIterable<Uint8Array>;
}

/** Sends requests; rejects when there is no answer. */
export type SendHttp = (url: string, request: HttpRequest) => Promise<HttpAnswer>;

/** By the platform's fetch, which browsers and Node have. */
export const sendByFetch: SendHttp = async (url, request) => {
  const response = await fetch(url, request);
  return { status: response.status, json: () => response.json(), bytes: () => bytesOf(response) };
};

async function* bytesOf(response: Response): AsyncGenerator<Uint8Array> {
  const reader = response.body?.getReader();
  if (reader === undefined) return;
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}
