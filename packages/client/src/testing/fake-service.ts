import { type WebSocket, WebSocketServer } from "ws";
import type { PlayerOptions } from "../player/options.ts";
import { PlayerClient } from "../player/player-client.ts";

export type Frame = Record<string, unknown> & { frame: string; id?: number };

const servers: WebSocketServer[] = [];
const players: PlayerClient[] = [];

/** Ends all players and services of a test. */
export function endFakes(): void {
  for (const player of players.splice(0)) player.drop();
  for (const server of servers.splice(0)) {
    for (const socket of server.clients) socket.terminate();
    server.close();
  }
}

/** A service that answers each frame of each connection as the test says. */
export async function fakeService(
  answer: (frame: Frame, say: (frame: object) => void, socket: WebSocket, connection: number) => void,
  { takesHeartbeats = false } = {},
) {
  const server = new WebSocketServer({ port: 0, host: "127.0.0.1" });
  servers.push(server);
  await new Promise((resolve) => server.once("listening", resolve));
  const frames: Frame[] = [];
  let connections = 0;
  server.on("connection", (socket) => {
    const connection = ++connections;
    socket.on("message", (bytes) => {
      const frame = JSON.parse(String(bytes)) as Frame;
      if (frame.frame === "heartbeat" && !takesHeartbeats) return;
      frames.push(frame);
      answer(frame, (said) => socket.send(JSON.stringify(said)), socket, connection);
    });
  });
  const url = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
  const connect = async (more: Partial<PlayerOptions> = {}) => {
    const player = await PlayerClient.connect({
      url,
      name: "Ansel",
      build: "game-1",
      reconnect: { firstMs: 10, attempts: 5 },
      ...more,
    });
    players.push(player);
    return player;
  };
  return { frames, connect };
}
