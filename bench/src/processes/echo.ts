import { type WebSocket, WebSocketServer } from "ws";

const GROUP = 4;

/** The plainest server on bare ws: parses, answers the sender and tells its group, those who came before or after it. */
export class Echo {
  readonly server = new WebSocketServer({ port: 0, host: "127.0.0.1", perMessageDeflate: false });
  /** What a group is told of each message. */
  update: object = {};

  constructor() {
    const sockets: WebSocket[] = [];
    this.server.on("connection", (socket) => {
      const first = sockets.length - (sockets.length % GROUP);
      sockets.push(socket);
      socket.on("message", (bytes) => {
        const request = JSON.parse(String(bytes)) as { id: number };
        const told = JSON.stringify(this.update);
        for (let n = first; n < first + GROUP; n++) sockets[n]?.send(told);
        socket.send(JSON.stringify({ frame: "reply", id: request.id, reply: { revision: request.id } }));
      });
    });
  }
}
