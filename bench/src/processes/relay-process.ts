// The ceiling of `fanout`: the plainest room relay on bare ws. Parses, stringifies once, sends to each, answers the sender.
import { type WebSocket, WebSocketServer } from "ws";

const ROOM = 16;

const server = new WebSocketServer({ port: 0, host: "127.0.0.1", perMessageDeflate: false });
const sockets: WebSocket[] = [];

server.on("connection", (socket) => {
  const number = sockets.length;
  const first = number - (number % ROOM);
  sockets.push(socket);
  socket.on("message", (bytes) => {
    const { id, args } = JSON.parse(String(bytes)) as { id: number; args: { body: unknown } };
    const relayed = JSON.stringify({
      frame: "relayed",
      room: "r_000000000000",
      from: "p_000000000000",
      body: args.body,
    });
    for (let n = first; n < first + ROOM; n++) if (n !== number) sockets[n]?.send(relayed);
    socket.send(JSON.stringify({ frame: "reply", id, reply: { delivered: ROOM - 1 } }));
  });
});

process.on("message", () => process.send?.({ port: (server.address() as { port: number }).port }));
