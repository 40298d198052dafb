// The ceiling of `workers`: the plainest server on bare ws, in one process or in several that share a port. Each message is
// parsed and answered, and told to the others of its group, which are those who came to the same process before or after it.
import cluster from "node:cluster";
import { type WebSocket, WebSocketServer } from "ws";

const GROUP = 4;

if (cluster.isPrimary) {
  process.on("message", ({ workers, update }: { workers: number; update: object }) => {
    let left = workers;
    cluster.on("listening", (worker, { port }) => {
      worker.send({ update });
      left -= 1;
      if (left === 0) process.send?.({ port });
    });
    for (let n = 0; n < workers; n++) cluster.fork();
  });
  process.on("disconnect", () => process.exit(0));
} else {
  serve();
}

function serve(): void {
  const server = new WebSocketServer({ port: 0, host: "127.0.0.1", perMessageDeflate: false });
  const sockets: WebSocket[] = [];
  let update: object = {};
  server.on("connection", (socket) => {
    const first = sockets.length - (sockets.length % GROUP);
    sockets.push(socket);
    socket.on("message", (bytes) => {
      const request = JSON.parse(String(bytes)) as { id: number };
      const told = JSON.stringify(update);
      for (let n = first; n < first + GROUP; n++) sockets[n]?.send(told);
      socket.send(JSON.stringify({ frame: "reply", id: request.id, reply: { revision: request.id } }));
    });
  });
  process.on("message", (message: { update: object }) => {
    update = message.update;
  });
}
