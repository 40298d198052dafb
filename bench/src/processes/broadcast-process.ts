// The ceiling of `directory`: a bare broadcast. Whatever is asked, the same bytes go to every socket but the first ones.
import { type WebSocket, WebSocketServer } from "ws";

const HOSTS = 40;

const server = new WebSocketServer({ port: 0, host: "127.0.0.1", perMessageDeflate: false });
const sockets: WebSocket[] = [];
let sample = "";

server.on("connection", (socket) => {
  sockets.push(socket);
  socket.on("message", (bytes) => {
    const { id } = JSON.parse(String(bytes)) as { id: number };
    for (let n = HOSTS; n < sockets.length; n++) sockets[n]?.send(sample);
    socket.send(JSON.stringify({ frame: "reply", id, reply: { revision: 1 } }));
  });
});

process.on("message", (message: { sample: string }) => {
  sample = message.sample;
  process.send?.({ port: (server.address() as { port: number }).port });
});
