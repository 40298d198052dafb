import type { AddressInfo } from "node:net";
import type { Api } from "./api/parts.ts";
import type { Config } from "./config/schema.ts";
import { StartError } from "./start.ts";

/** Where the service listens. What is built before it does asks here, once somebody wants to know. */
export class Listening {
  readonly host: string;
  readonly #wanted: number;
  readonly #scheme: "http" | "https";
  #port = 0;

  constructor({ host, port, tls }: Config["listen"]) {
    this.#scheme = tls === undefined ? "http" : "https";
    this.host = host;
    this.#wanted = port;
  }

  /** The port that was asked for, or the one that was free where any would do; 0 until it listens. */
  get port(): number {
    return this.#port;
  }

  get url(): string {
    return `${this.#scheme}://${reachable(this.host)}:${this.#port}`;
  }

  /** Throws {@link StartError} when the port cannot be had. */
  async begin(api: Api): Promise<void> {
    const { host } = this;
    const port = this.#wanted;
    try {
      await api.listen({ host, port });
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      const detail =
        code === "EADDRINUSE"
          ? `Port ${port} on ${host} is taken; stop what listens there, or choose another with --port.`
          : `Cannot listen on ${host}:${port}: ${code ?? message}; choose another with --host and --port.`;
      throw new StartError("port-taken", detail);
    }
    this.#port = (api.server.address() as AddressInfo).port;
  }
}

/** What to connect to when the service listens on every address. */
function reachable(host: string): string {
  if (host === "0.0.0.0") return "127.0.0.1";
  if (host === "::") return "[::1]";
  return host.includes(":") ? `[${host}]` : host;
}
