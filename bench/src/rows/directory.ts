import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const MEASURE_MS = 3_000;

/** Changes of the directory, told to all who follow it. */
export const directory: Row = {
  name: "directory",
  about:
    "live directory differences to 500 followers while 40 hosts change their rooms; ceiling: a bare broadcast of the same bytes",
  unit: "differences/s",
  goal: 0.8,
  higherIsBetter: true,
  rounds: 5,
  prepare: async () => {
    const service = await startBenchService();
    const plain = startHelper("broadcast-process");
    const [ourLoad, plainLoad] = [startHelper("directory-load-process"), startHelper("directory-load-process")];
    const { sample } = await ourLoad.ask<{ sample: string }>({
      connect: { url: `${service.url.replace("http", "ws")}/v1/play`, isService: true, build: BENCH_BUILD },
    });
    const { port } = await plain.ask<{ port: number }>({ sample });
    await plainLoad.ask({ connect: { url: `ws://127.0.0.1:${port}`, isService: false, build: "" } });
    let each = 0;
    return {
      ours: async () => {
        const measured = await ourLoad.ask<{ perSecond: number; each: number }>({ measureMs: MEASURE_MS });
        each = measured.each;
        return measured.perSecond;
      },
      ceiling: async () => (await plainLoad.ask<{ perSecond: number }>({ measureMs: MEASURE_MS })).perSecond,
      whereTheTimeGoes: () =>
        `${each.toFixed(1)} differences go out in each frame; each is durable first, and the rest is the system's writes`,
      end: async () => {
        await Promise.all([ourLoad.end(), plainLoad.end(), plain.end()]);
        await service.end();
      },
    };
  },
};
