import { createSocket } from "node:dgram";
import { createServer } from "node:net";
import type { Transport } from "@yellow-harbor/protocol";

/** Tries a port for a moment by what is to speak there, so that a clash is known before a process is started for nothing. */
export const whyPortIsTaken = (port: number, transport: Transport): Promise<string | undefined> =>
  transport === "udp" ? whyUdpIsTaken(port, "udp6") : whyTcpIsTaken(port);

function whyTcpIsTaken(port: number): Promise<string | undefined> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once("error", (error: NodeJS.ErrnoException) => resolve(error.code ?? error.message));
    server.listen(port, () => server.close(() => resolve(undefined)));
  });
}

/** A computer without IPv6 is asked by IPv4. */
function whyUdpIsTaken(port: number, type: "udp4" | "udp6"): Promise<string | undefined> {
  return new Promise((resolve) => {
    const socket = createSocket({ type, ipv6Only: false });
    socket.once("error", ({ code, message }: NodeJS.ErrnoException) => {
      socket.close();
      const hasNone = type === "udp6" && (code === "EAFNOSUPPORT" || code === "EADDRNOTAVAIL");
      resolve(hasNone ? whyUdpIsTaken(port, "udp4") : (code ?? message));
    });
    socket.bind({ port, exclusive: true }, () => socket.close(() => resolve(undefined)));
  });
}
