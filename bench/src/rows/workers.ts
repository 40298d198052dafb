import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const MEASURE_MS = 3_000;

/** What a second process brings: commands a second with two, as often as with one; the ceiling by bare sockets the same way. */
export const workers: Row = {
  name: "workers",
  about: "the same commands with two processes, as a share of what they are with one",
  unit: "times",
  goal: 0.8,
  higherIsBetter: true,
  rounds: 5,
  prepare: async () => {
    const services = [
      await startBenchService(),
      await startBenchService(undefined, undefined, ["--workers", "2"]),
    ] as const;
    const ours = [startHelper("load-process"), startHelper("load-process")] as const;
    let update: object = {};
    for (const [n, load] of ours.entries()) {
      const url = `${services[n]?.url.replace("http", "ws")}/v1/play`;
      ({ sample: update } = await load.ask<{ sample: object }>({
        connect: { url, isService: true, build: BENCH_BUILD },
      }));
    }
    const echoes = [startHelper("echo-cluster-process"), startHelper("echo-cluster-process")] as const;
    const plain = [startHelper("load-process"), startHelper("load-process")] as const;
    for (const [n, load] of plain.entries()) {
      const { port } = (await echoes[n]?.ask<{ port: number }>({ workers: n + 1, update })) ?? { port: 0 };
      await load.ask({ connect: { url: `ws://127.0.0.1:${port}`, isService: false, build: "" } });
    }
    let perSecond = [0, 0];
    const measure = async (loads: typeof ours) => {
      perSecond = [];
      for (const load of loads)
        perSecond.push((await load.ask<{ perSecond: number }>({ measureMs: MEASURE_MS })).perSecond);
      return (perSecond[1] ?? 0) / (perSecond[0] ?? 1);
    };
    return {
      ours: () => measure(ours),
      ceiling: () => measure(plain),
      whereTheTimeGoes: () =>
        `the harbor itself stays in one process, and each command and update crosses to the other; lately ${perSecond.map(Math.round).join(" and ")} commands/s`,
      end: async () => {
        await Promise.all([...ours, ...plain, ...echoes].map((helper) => helper.end()));
        for (const service of services) await service.end();
      },
    };
  },
};
