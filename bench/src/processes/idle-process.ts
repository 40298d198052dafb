// The ceiling of `memory` and `restart`: connections on bare ws that nobody does anything with. The port may be given.
import { WebSocketServer } from "ws";

const server = new WebSocketServer({ port: Number(process.argv[2] ?? 0), host: "127.0.0.1", perMessageDeflate: false });
server.on("connection", (socket) => socket.on("message", () => socket.send('{"frame":"welcome"}')));

process.on("message", () => process.send?.({ port: (server.address() as { port: number }).port }));
