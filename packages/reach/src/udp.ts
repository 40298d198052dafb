import { createSocket } from "node:dgram";
import { lookup } from "node:dns/promises";
import { isIPv6 } from "node:net";
import { performance } from "node:perf_hooks";
import { type ReachCause, reachCauseOf } from "@yellow-harbor/protocol";

export type Asked =
  | { readonly ok: true; readonly ms: number; readonly answer: Buffer }
  | { readonly ok: false; readonly ms: number; readonly cause: ReachCause };

/** Sends a datagram once, and resolves with the first that comes back from there. */
export async function askUdp(host: string, port: number, datagram: Buffer, patienceMs: number): Promise<Asked> {
  const begin = performance.now();
  const since = () => Math.round(performance.now() - begin);
  try {
    const { address } = await lookup(host.replace(/^\[|\]$/g, ""));
    const answer = await ask(address, port, datagram, patienceMs);
    return answer === undefined ? { ok: false, ms: since(), cause: "no-answer" } : { ok: true, ms: since(), answer };
  } catch (error) {
    return { ok: false, ms: since(), cause: reachCauseOf(error as Error) };
  }
}

/** Undefined when nothing has come back in time. Rejects where the network says that nobody is there. */
function ask(address: string, port: number, datagram: Buffer, patienceMs: number): Promise<Buffer | undefined> {
  return new Promise((resolve, reject) => {
    const socket = createSocket(isIPv6(address) ? "udp6" : "udp4");
    const timer = setTimeout(() => finish(() => resolve(undefined)), patienceMs);
    const finish = (settle: () => void) => {
      clearTimeout(timer);
      socket.close();
      settle();
    };
    socket.once("error", (error) => finish(() => reject(error)));
    socket.once("connect", () => {
      socket.once("message", (answer) => finish(() => resolve(answer)));
      socket.send(datagram);
    });
    // Connected, it hears of nobody else, and of a refusal.
    socket.connect(port, address);
  });
}
