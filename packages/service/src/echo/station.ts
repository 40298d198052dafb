import { once } from "node:events";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { answerEchoes, echoSockets } from "./echo-door.ts";
import { UdpEcho } from "./udp-echo.ts";

/** WebSockets that are open at once; more are refused. */
const OPEN_MAX = 1_000;

export interface EchoStation {
  readonly port: number;
  close(): Promise<void>;
}

/** Answers echoes on a port of its own, by WebSocket and by UDP, in a region where no service stands. */
export async function startEchoStation({ port, host }: { port: number; host: string }): Promise<EchoStation> {
  const sockets = echoSockets();
  const server = createServer((_request, response) => response.writeHead(426).end());
  server.on("upgrade", (request, socket, head) => {
    socket.on("error", () => socket.destroy());
    if (sockets.clients.size >= OPEN_MAX) return void socket.destroy();
    sockets.handleUpgrade(request, socket, head, answerEchoes);
  });
  server.listen(port, host);
  await once(server, "listening");
  const taken = (server.address() as AddressInfo).port;
  const udp = await UdpEcho.open(taken, host).catch((error: unknown) => {
    server.close();
    throw error;
  });
  return {
    port: taken,
    close: async () => {
      udp.close();
      for (const socket of sockets.clients) socket.terminate();
      const closed = once(server, "close");
      server.close();
      server.closeAllConnections();
      await closed;
    },
  };
}
