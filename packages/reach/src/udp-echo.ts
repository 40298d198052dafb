import { createSocket } from "node:dgram";
import { lookup } from "node:dns/promises";
import { isIPv6 } from "node:net";
import { performance } from "node:perf_hooks";
import { ECHO_MARK } from "@yellow-harbor/protocol";

/** After so long a datagram counts as lost, and the next is sent. */
const LOST_MS = 400;

/**
 * Round trips of echoes by UDP, in milliseconds: so many, after one that is not counted. Fewer when some are lost, none when
 * nobody answers.
 */
export async function udpRoundTrips(host: string, port: number, tries: number, patienceMs: number): Promise<number[]> {
  const { address } = await lookup(host);
  return new Promise((resolve, reject) => {
    const socket = createSocket(isIPv6(address) ? "udp6" : "udp4");
    const trips: number[] = [];
    let sent = 0;
    let sentAt = 0;
    let lost: NodeJS.Timeout | undefined;
    const finish = (settle: () => void) => {
      clearTimeout(lost);
      clearTimeout(late);
      socket.close();
      settle();
    };
    const late = setTimeout(() => finish(() => resolve(trips)), patienceMs);
    const send = () => {
      if (sent > tries) return finish(() => resolve(trips));
      sent += 1;
      sentAt = performance.now();
      socket.send(`${ECHO_MARK}${sent}`);
      lost = setTimeout(send, LOST_MS);
    };
    socket.once("error", (error) => finish(() => (trips.length > 0 ? resolve(trips) : reject(error))));
    socket.on("message", (answer) => {
      if (answer.toString() !== `${ECHO_MARK}${sent}`) return;
      clearTimeout(lost);
      if (sent > 1) trips.push(performance.now() - sentAt);
      send();
    });
    // Connected, it hears of nobody else, and of a refusal.
    socket.connect(port, address, send);
  });
}
