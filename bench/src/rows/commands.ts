import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const MEASURE_MS = 3_000;

/** Ready and not-ready round trips, durable before they are acknowledged, told to the whole room. */
export const commands: Row = {
  name: "commands",
  about: "durable, acknowledged ready/not-ready round trips, 200 players in 50 rooms, update to the others included",
  unit: "commands/s",
  goal: 0.6,
  higherIsBetter: true,
  rounds: 5,
  prepare: async () => {
    const service = await startBenchService();
    const echo = startHelper("echo-process");
    const [ourLoad, plainLoad] = [startHelper("load-process"), startHelper("load-process")];
    const { sample } = await ourLoad.ask<{ sample: object }>({
      connect: { url: `${service.url.replace("http", "ws")}/v1/play`, isService: true, build: BENCH_BUILD },
    });
    // The ceiling sends update of the very shape and size that ours has.
    const { port } = await echo.ask<{ port: number }>({ update: sample });
    await plainLoad.ask({ connect: { url: `ws://127.0.0.1:${port}`, isService: false, build: "" } });
    let updatesPerCommand = 0;
    const measure = async (load: typeof ourLoad) => {
      const measured = await load.ask<{ perSecond: number; updatesPerCommand: number }>({ measureMs: MEASURE_MS });
      updatesPerCommand = measured.updatesPerCommand;
      return measured.perSecond;
    };
    return {
      ours: () => measure(ourLoad),
      ceiling: () => measure(plainLoad),
      whereTheTimeGoes: () =>
        `each command is parsed, checked, decided, written as an event, committed and told to ${updatesPerCommand.toFixed(1)} members; profile the service with node --cpu-prof`,
      end: async () => {
        await Promise.all([ourLoad.end(), plainLoad.end(), echo.end()]);
        await service.end();
      },
    };
  },
};
