import { createSocket, type Socket } from "node:dgram";
import { once } from "node:events";
import { ECHO_MARK, ECHO_MAX_BYTES } from "@yellow-harbor/protocol";
import { networkOf } from "@yellow-harbor/reach";

/** Echoes that a network is answered in a second, and all networks together. */
const PER_NETWORK = 50;
const IN_ALL = 5_000;
const WINDOW_MS = 1_000;

const MARK = Buffer.from(ECHO_MARK, "ascii");

/**
 * Answers echoes by UDP. An answer is never longer than what it answers, only what begins with the mark is answered, and each
 * network only so often: whoever sends in the name of somebody else wins nothing by it.
 */
export class UdpEcho {
  readonly #socket: Socket;
  readonly #answered = new Map<string, number>();
  readonly #window: NodeJS.Timeout;
  #inAll = 0;

  private constructor(socket: Socket) {
    this.#socket = socket;
    this.#window = setInterval(() => {
      this.#answered.clear();
      this.#inAll = 0;
    }, WINDOW_MS);
    this.#window.unref();
    socket.on("message", (datagram, from) => {
      if (this.#mayAnswer(datagram, from.address)) socket.send(datagram, from.port, from.address, () => undefined);
    });
    // A port that nobody listens at any more comes back as an error of the next call: nobody waits for that.
    socket.on("error", () => undefined);
  }

  /** Rejects when the port cannot be had; 0 for any. */
  static async open(port: number, host: string): Promise<UdpEcho> {
    const socket = createSocket({ type: host.includes(":") ? "udp6" : "udp4" });
    const opened = once(socket, "listening");
    socket.bind(port, host);
    await opened;
    return new UdpEcho(socket);
  }

  get port(): number {
    return this.#socket.address().port;
  }

  close(): void {
    clearInterval(this.#window);
    this.#socket.close();
  }

  #mayAnswer(datagram: Buffer, address: string): boolean {
    if (datagram.length > ECHO_MAX_BYTES || !datagram.subarray(0, MARK.length).equals(MARK)) return false;
    const network = networkOf(address);
    const answered = this.#answered.get(network) ?? 0;
    if (answered >= PER_NETWORK || this.#inAll >= IN_ALL) return false;
    this.#answered.set(network, answered + 1);
    this.#inAll += 1;
    return true;
  }
}
