import { createServer, type Server } from "node:http";
import { StartError } from "../start.ts";

const PATIENCE_MS = 5_000;
const TARGET_MAX = 2_000;

/** Sends whoever comes without TLS to the same address with it (RFC 9110, section 15.4.9). Resolves once it listens. */
export async function redirectToTls(host: string, port: number, url: string): Promise<Server> {
  const { origin } = new URL(url);
  const server = createServer(
    { requestTimeout: PATIENCE_MS, maxHeaderSize: 8_192 },
    ({ url: target = "/" }, response) => {
      const path = target.startsWith("/") && target.length <= TARGET_MAX ? target : "/";
      response.writeHead(308, { location: `${origin}${path}`, connection: "close" }).end();
    },
  );
  server.headersTimeout = PATIENCE_MS;
  server.on("clientError", (_error, socket) => socket.destroy());
  await new Promise<void>((resolve, reject) => {
    server.once("error", ({ message }) =>
      reject(new StartError("port-taken", `Cannot listen on ${host}:${port}: ${message}.`)),
    );
    server.listen(port, host, resolve);
  });
  return server;
}
