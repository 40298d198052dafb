import { cpuMs } from "../process-figures.ts";
import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const ROUNDS_OF_PLAY = 60;
const [MANY, FEW] = [10_000, 100];

/** Rooms whose hosts are gone stay for as long as this measures, and nobody is pinged meanwhile. */
const patient = (config: string) =>
  config
    .replace(
      "framesPerSecond: 100000",
      "framesPerSecond: 100000, limit: 100000, heartbeatEveryMs: 600000, silenceMs: 1200000",
    )
    .replace("capacity: {", "graceMs: 86400000, capacity: {");

/** Whether a command costs more where there are more rooms. */
export const growth: Row = {
  name: "growth",
  about: `processor time per command (ready, leave, quickJoin) with ${MANY} rooms; ceiling: with ${FEW}`,
  unit: "us",
  goal: 1.1,
  higherIsBetter: false,
  rounds: 9,
  prepare: async () => {
    const services = await Promise.all([startBenchService(patient), startBenchService(patient)]);
    const loads = [startHelper("growth-load-process"), startHelper("growth-load-process")];
    for (const [n, rooms] of [MANY, FEW].entries()) {
      const url = `${services[n]?.url.replace("http", "ws")}/v1/play`;
      await loads[n]?.ask({ fill: { url, build: BENCH_BUILD, rooms } });
    }
    const measure = async (n: number) => {
      const pid = services[n]?.pid ?? 0;
      const before = cpuMs(pid);
      const { commands = 1 } = (await loads[n]?.ask<{ commands: number }>({ rounds: ROUNDS_OF_PLAY })) ?? {};
      return ((cpuMs(pid) - before) * 1000) / commands;
    };
    return {
      ours: () => measure(0),
      ceiling: () => measure(1),
      whereTheTimeGoes: () => "quick-join and the directory look at rooms; everything else at one room alone",
      end: async () => {
        await Promise.all(loads.map((load) => load.end()));
        await Promise.all(services.map((service) => service.end()));
      },
    };
  },
};
