import { ECHO_MARK, ECHO_SUBPROTOCOL } from "@yellow-harbor/protocol";
import { SOCKET_OPEN, type SocketLike, type SocketMaker, socketUrl } from "./socket.ts";

/** How far away something is: the median of several round trips, and how much they differ, in milliseconds. */
export interface Measured {
  readonly latencyMs: number;
  readonly jitterMs: number;
}

/** Measures round trips to a `udp:` address, in milliseconds; for platforms that have UDP. */
export type UdpEchoes = (host: string, port: number, tries: number, patienceMs: number) => Promise<readonly number[]>;

export interface EchoWays {
  /** Address of the service, which a path counts from. */
  readonly url: string;
  readonly socket: SocketMaker;
  /** Addresses that begin with `udp:` are passed over without it. */
  readonly udp: UdpEchoes | undefined;
}

const PATIENCE_MS = 2_000;
/** One more is sent first, which wakes what sleeps and is not counted. */
const TRIES = 5;

/** Measures at the first of the addresses that answers; undefined when none does. */
export async function measureEcho(urls: readonly string[], ways: EchoWays): Promise<Measured | undefined> {
  for (const url of urls) {
    const trips = await roundTrips(url, ways).catch(() => []);
    if (trips.length > 0) return measuredOf(trips);
  }
  return undefined;
}

export function measuredOf(trips: readonly number[]): Measured {
  const sorted = [...trips].sort((a, b) => a - b);
  const latencyMs = medianOf(sorted);
  const apart = sorted.map((trip) => Math.abs(trip - latencyMs)).sort((a, b) => a - b);
  return { latencyMs: rounded(latencyMs), jitterMs: rounded(medianOf(apart)) };
}

const medianOf = (sorted: readonly number[]): number => {
  const middle = sorted.length >> 1;
  const upper = sorted[middle] ?? 0;
  return sorted.length % 2 === 1 ? upper : (upper + (sorted[middle - 1] ?? 0)) / 2;
};

const rounded = (ms: number): number => Math.round(ms * 10) / 10;

async function roundTrips(place: string, { url: service, socket, udp }: EchoWays): Promise<readonly number[]> {
  const url = place.startsWith("/") ? socketUrl(service, place) : place;
  const { protocol, hostname, port } = new URL(url);
  if (protocol === "udp:") return udp ? udp(hostname.replace(/^\[|\]$/g, ""), Number(port), TRIES, PATIENCE_MS) : [];
  return overSocket(await socket(url, ECHO_SUBPROTOCOL));
}

/** Resolves with the round trips that were made in time; fewer, and none, when the other side goes away or is slow. */
function overSocket(socket: SocketLike): Promise<readonly number[]> {
  return new Promise((resolve) => {
    const trips: number[] = [];
    let sent = 0;
    let sentAt = 0;
    const late = setTimeout(() => end(), PATIENCE_MS);
    const end = () => {
      clearTimeout(late);
      socket.close(1000, "measured");
      resolve(trips);
    };
    const send = () => {
      sent += 1;
      sentAt = performance.now();
      if (socket.readyState === SOCKET_OPEN) socket.send(`${ECHO_MARK}${sent}`);
    };
    socket.addEventListener("open", send);
    socket.addEventListener("message", ({ data }) => {
      if (String(data) !== `${ECHO_MARK}${sent}`) return;
      if (sent > 1) trips.push(performance.now() - sentAt);
      if (trips.length < TRIES) send();
      else end();
    });
    socket.addEventListener("error", end);
    socket.addEventListener("close", end);
  });
}
