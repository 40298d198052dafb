import { setTimeout as wait } from "node:timers/promises";
import { residentBytes } from "../process-figures.ts";
import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const PLAYERS = 8_000;
/** After this the collector has had its turn at what the connecting left behind. */
const COOLDOWN_MS = 6_000;

/** What a player who sits in a room costs in memory. */
export const memory: Row = {
  name: "memory",
  about: "resident bytes per connected player in a room of 8, 8,000 players; ceiling: a bare idle connection",
  unit: "bytes",
  goal: 2,
  higherIsBetter: false,
  rounds: 3,
  prepare: async () => ({
    ours: async () => {
      const service = await startBenchService();
      const url = `${service.url.replace("http", "ws")}/v1/play`;
      const used = await bytesPerPlayer(service.pid, { url, isService: true, build: BENCH_BUILD });
      await service.end();
      return used;
    },
    ceiling: async () => {
      const idle = startHelper("idle-process");
      const { port } = await idle.ask<{ port: number }>({});
      const used = await bytesPerPlayer(idle.pid, { url: `ws://127.0.0.1:${port}`, isService: false, build: "" });
      await idle.end();
      return used;
    },
    whereTheTimeGoes: () =>
      "each connection has its socket; each player its state, its place, and its share of the update kept",
    end: async () => undefined,
  }),
};

async function bytesPerPlayer(pid: number, load: object): Promise<number> {
  await wait(500);
  const before = residentBytes(pid);
  const sitting = startHelper("sitting-process");
  await sitting.ask({ sit: { ...load, players: PLAYERS } });
  await wait(COOLDOWN_MS);
  const after = residentBytes(pid);
  await sitting.end();
  return (after - before) / PLAYERS;
}
