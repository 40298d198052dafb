import { createServer, type IncomingHttpHeaders, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import type { CloudEvent } from "@yellow-harbor/protocol";

/** One request that came. */
export interface Received {
  readonly headers: IncomingHttpHeaders;
  readonly body: string;
  readonly events: readonly CloudEvent[];
}

export interface Receiver {
  readonly url: string;
  readonly requests: readonly Received[];
  /** All events in the order in which they came. */
  readonly events: readonly CloudEvent[];
  /** Resolves once what came fits. */
  readonly until: (fits: (receiver: Receiver) => boolean) => Promise<void>;
  readonly close: () => Promise<void>;
}

/** Receives webhooks. `answer` may answer a request in its own way; 204 is answered where it returns nothing. */
export async function startReceiver(
  answer: (received: Received, response: ServerResponse) => boolean | undefined = () => undefined,
): Promise<Receiver> {
  const requests: Received[] = [];
  const waiting: (() => void)[] = [];
  const server = createServer((request, response) => {
    let body = "";
    request.on("data", (chunk) => {
      body += String(chunk);
    });
    request.on("end", () => {
      const given = JSON.parse(body) as CloudEvent | CloudEvent[];
      const received = { headers: request.headers, body, events: [given].flat() };
      requests.push(received);
      if (answer(received, response) !== true) response.writeHead(204).end();
      for (const look of [...waiting]) look();
    });
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  const receiver: Receiver = {
    url: `http://127.0.0.1:${port}/hooks`,
    requests,
    get events() {
      return requests.flatMap(({ events }) => events);
    },
    until: (fits) =>
      new Promise((resolve, reject) => {
        const late = setTimeout(() => {
          const came = receiver.events.map(({ type, subject }) => `${type} ${subject}`);
          reject(new Error(`it did not come; there were:\n${came.join("\n")}`));
        }, 20_000);
        const look = () => {
          if (!fits(receiver)) return;
          clearTimeout(late);
          waiting.splice(waiting.indexOf(look), 1);
          resolve();
        };
        waiting.push(look);
        look();
      }),
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
  return receiver;
}
