import { type AddressInfo, connect, createServer, type Socket } from "node:net";

/** A stretch of wire between a client and the service that is cut again and again. */
export interface CuttingProxy {
  readonly url: string;
  readonly cuts: () => number;
  /** Lets everything through from now on. */
  readonly heal: () => void;
  readonly close: () => void;
}

/**
 * Passes bytes both ways and cuts each connection once it has passed as many as `nextCut` says, in the middle of whatever
 * frame that is. Nothing is said to either side: a cut wire says no goodbye.
 */
export async function startCuttingProxy(serviceUrl: string, nextCut: () => number): Promise<CuttingProxy> {
  const { hostname, port } = new URL(serviceUrl);
  const sockets = new Set<Socket>();
  let cuts = 0;
  let isHealed = false;
  const server = createServer((near) => {
    const far = connect(Number(port), hostname);
    let left = nextCut();
    for (const [from, to] of [
      [near, far],
      [far, near],
    ] as const) {
      sockets.add(from);
      from.on("data", (bytes: Buffer) => {
        if (isHealed || bytes.length < left) {
          left -= bytes.length;
          to.write(bytes);
          return;
        }
        cuts += 1;
        to.write(bytes.subarray(0, left));
        // What was written still gets out; then there is nobody.
        setImmediate(() => {
          near.destroy();
          far.destroy();
        });
        left = Number.POSITIVE_INFINITY;
      });
      from.on("error", () => undefined);
      from.on("close", () => {
        sockets.delete(from);
        to.destroy();
      });
    }
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    cuts: () => cuts,
    heal: () => {
      isHealed = true;
    },
    close: () => {
      server.close();
      for (const socket of sockets) socket.destroy();
    },
  };
}
