import { cpuMs } from "../process-figures.ts";
import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const VISITS = 1_000;
const [MANY, FEW] = [10_000, 101];

/** Who has gone keeps its place for as long as this measures, and nobody is pinged meanwhile. Beyond 100 the lobby is told in numbers. */
const patient = (config: string) =>
  config.replace(
    "framesPerSecond: 100000",
    "framesPerSecond: 100000, limit: 100000, graceMs: 86400000, heartbeatEveryMs: 600000, silenceMs: 1200000",
  );

/** Whether coming and going costs more in a lobby of very many. */
export const lobby: Row = {
  name: "lobby",
  about: `processor time per visit (hello, a page of the directory, goodbye) in a lobby of ${MANY}; ceiling: of ${FEW}`,
  unit: "us",
  goal: 1.2,
  higherIsBetter: false,
  rounds: 7,
  prepare: async () => {
    const services = await Promise.all([startBenchService(patient), startBenchService(patient)]);
    const loads = [startHelper("lobby-load-process"), startHelper("lobby-load-process")];
    for (const [n, players] of [MANY, FEW].entries()) {
      const url = `${services[n]?.url.replace("http", "ws")}/v1/play`;
      await loads[n]?.ask({ fill: { url, build: BENCH_BUILD, players } });
    }
    const measure = async (n: number) => {
      const pid = services[n]?.pid ?? 0;
      const before = cpuMs(pid);
      const { visits = 1 } = (await loads[n]?.ask<{ visits: number }>({ visits: VISITS })) ?? {};
      return ((cpuMs(pid) - before) * 1000) / visits;
    };
    return {
      ours: () => measure(0),
      ceiling: () => measure(1),
      whereTheTimeGoes: () =>
        "in numbers alone a lobby is told once a second; the rest is the visitor's own connection",
      end: async () => {
        await Promise.all(loads.map((load) => load.end()));
        await Promise.all(services.map((service) => service.end()));
      },
    };
  },
};
