// The ceiling of `commands`: the plainest server on bare ws that parses, answers the sender and tells its group.
import { type WebSocket, WebSocketServer } from "ws";

const GROUP = 4;

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
  const address = server.address() as { port: number };
  process.send?.({ port: address.port });
});
