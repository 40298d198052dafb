import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const MEASURE_MS = 3_000;

/** Messages relayed to the other members of a room. */
export const fanout: Row = {
  name: "fanout",
  about:
    "relayed messages delivered, 50 rooms of 16, 40-byte bodies, acknowledged; ceiling: the plainest relay on bare ws",
  unit: "deliveries/s",
  goal: 1.5,
  higherIsBetter: true,
  rounds: 5,
  prepare: async () => {
    const service = await startBenchService();
    const plain = startHelper("relay-process");
    const [ourLoad, plainLoad] = [startHelper("fanout-load-process"), startHelper("fanout-load-process")];
    await ourLoad.ask({
      connect: { url: `${service.url.replace("http", "ws")}/v1/play`, isService: true, build: BENCH_BUILD },
    });
    const { port } = await plain.ask<{ port: number }>({});
    await plainLoad.ask({ connect: { url: `ws://127.0.0.1:${port}`, isService: false, build: "" } });
    let each = 0;
    const measure = async (load: typeof ourLoad) => {
      const measured = await load.ask<{ perSecond: number; each: number }>({ measureMs: MEASURE_MS });
      each = measured.each;
      return measured.perSecond;
    };
    return {
      ours: () => measure(ourLoad),
      ceiling: () => measure(plainLoad),
      whereTheTimeGoes: () =>
        `each message is parsed and checked once, then written to ${each.toFixed(0)} sockets; the rest is the system's writes`,
      end: async () => {
        await Promise.all([ourLoad.end(), plainLoad.end(), plain.end()]);
        await service.end();
      },
    };
  },
};
