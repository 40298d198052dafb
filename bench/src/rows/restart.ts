import { type Helper, startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const PLAYERS = 1_000;

/** How long players are gone when the service is started anew. */
export const restart: Row = {
  name: "restart",
  about: "SIGTERM to the last of 1,000 players in rooms of 8 being back; ceiling: the same with a bare ws server",
  unit: "ms",
  goal: 2,
  higherIsBetter: false,
  rounds: 5,
  prepare: async () => ({
    ours: async () => {
      const service = await startBenchService();
      const url = `${service.url.replace("http", "ws")}/v1/play`;
      const away = await timeAway({ url, isService: true, build: BENCH_BUILD }, service.restart);
      await service.end();
      return away;
    },
    ceiling: async () => {
      let server: Helper = startHelper("idle-process");
      const { port } = await server.ask<{ port: number }>({});
      const away = await timeAway({ url: `ws://127.0.0.1:${port}`, isService: false, build: "" }, async () => {
        await server.end();
        server = startHelper("idle-process", [String(port)]);
      });
      await server.end();
      return away;
    },
    whereTheTimeGoes: () =>
      "stopping waits for clients to close, a start loads modules, and each resume is a commit that waits for its batch",
    end: async () => undefined,
  }),
};

async function timeAway(load: object, begin: () => Promise<void>): Promise<number> {
  const players = startHelper("returning-process");
  await players.ask({ come: { ...load, players: PLAYERS } });
  const beganMs = performance.now();
  const [back] = await Promise.all([players.ask<{ lastBackAtMs: number }>({ await: true }), begin()]);
  await players.end();
  return back.lastBackAtMs - (performance.timeOrigin + beganMs);
}
