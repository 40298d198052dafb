import type { Config } from "../config/schema.ts";
import { StartError } from "../start.ts";
import { EchoDoor } from "./echo-door.ts";
import { UdpEcho } from "./udp-echo.ts";

/** What the service itself answers to those who measure how far away it is. */
export class Echo {
  readonly door = new EchoDoor();
  readonly #config: Pick<Config, "echo" | "listen">;
  #udp: UdpEcho | undefined;

  constructor(config: Pick<Config, "echo" | "listen">) {
    this.#config = config;
  }

  /** Throws {@link StartError} when the port cannot be had. */
  async begin(): Promise<void> {
    const { echo, listen } = this.#config;
    if (echo.udpPort === undefined) return;
    try {
      this.#udp = await UdpEcho.open(echo.udpPort, listen.host);
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      const detail = `Port ${echo.udpPort}/udp on ${listen.host} cannot be had: ${code ?? message}; choose another as echo.udpPort.`;
      throw new StartError("port-taken", detail);
    }
  }

  end(): void {
    this.door.close();
    this.#udp?.close();
  }
}
