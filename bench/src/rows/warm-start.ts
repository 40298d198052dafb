import { fileURLToPath } from "node:url";
import { WebSocket } from "ws";
import { startHelper } from "../processes/child.ts";
import { median, type Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const RUNS = 60;
const WARM_UP = 150;
/** An instance that is asked to stop is gone well before. */
const STOP_MS = 500;
const MICROSECONDS = 1_000;
const INSTANCE = fileURLToPath(new URL("../processes/warm-instance.js", import.meta.url));

/** From the last member's word to address and pass at every member, with an instance that is up. */
export const warmStart: Row = {
  name: "warm-start",
  about:
    "last ready of a room of 4 until all have address and pass, instance up and open; ceiling: one bare round trip with one commit in between",
  unit: "us",
  goal: 4,
  higherIsBetter: false,
  rounds: 7,
  prepare: async () => {
    const service = await startBenchService((config) =>
      config
        .replace(
          "capacity: { max: 64, default: 4 }",
          "capacity: { max: 64, default: 4 }, autoStart: true, resultBy: host",
        )
        .replace('none: { command: "true" }', `none: { command: node, args: ["${INSTANCE}"] }`),
    );
    const load = startHelper("warm-load-process");
    const trip = startHelper("bare-trip-process");
    await load.ask({ connect: { url: `${service.url.replace("http", "ws")}/v1/play`, build: BENCH_BUILD } });
    const runs = async (count: number) => (await load.ask<{ took: number[] }>({ runs: count })).took;
    // Both sides are compiled by the engine while they run; what counts is a service that is up.
    await runs(WARM_UP);
    const { port } = await trip.ask<{ port: number }>({});
    const socket = new WebSocket(`ws://127.0.0.1:${port}`, { perMessageDeflate: false });
    await new Promise((resolve) => socket.once("open", resolve));
    for (let n = 0; n < WARM_UP; n++) await roundTrip(socket);
    return {
      ours: async () => median(await runs(RUNS)) * MICROSECONDS,
      ceiling: async () => {
        const took: number[] = [];
        for (let n = 0; n < RUNS; n++) took.push(await roundTrip(socket));
        return median(took) * MICROSECONDS;
      },
      whereTheTimeGoes: () =>
        "two commits and two round trips lie in it: the start is made durable, the instance takes the match, that is made durable, the passes go out",
      end: async () => {
        socket.terminate();
        await load.ask({ part: true });
        await new Promise((resolve) => setTimeout(resolve, STOP_MS));
        await Promise.all([load.end(), trip.end()]);
        await service.end();
      },
    };
  },
};

/** A message of the size of a request, there and back. */
function roundTrip(socket: WebSocket): Promise<number> {
  const begin = performance.now();
  return new Promise((resolve) => {
    socket.once("message", () => resolve(performance.now() - begin));
    socket.send(JSON.stringify({ frame: "request", id: 1, ask: "room.ready", args: { ready: true } }));
  });
}
