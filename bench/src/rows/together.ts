import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const MEASURE_MS = 3_000;

/** One thing of groups against getting ready in rooms of the same size, by the same load on services of the same kind. */
const row = (name: string, about: string, what: "follows" | "invites", where: string): Row => ({
  name,
  about,
  unit: "commands/s",
  goal: 0.8,
  higherIsBetter: true,
  rounds: 5,
  prepare: async () => {
    const services = await Promise.all([startBenchService(), startBenchService()]);
    const loads = [startHelper("together-load-process"), startHelper("together-load-process")];
    for (const [n, one] of [what, "ready"].entries()) {
      const url = `${services[n]?.url.replace("http", "ws")}/v1/play`;
      await loads[n]?.ask({ connect: { url, build: BENCH_BUILD, what: one } });
    }
    const measure = async (n: number) =>
      (await loads[n]?.ask<{ perSecond: number }>({ measureMs: MEASURE_MS }))?.perSecond ?? 0;
    return {
      ours: () => measure(0),
      ceiling: () => measure(1),
      whereTheTimeGoes: () => where,
      end: async () => {
        await Promise.all(loads.map((load) => load.end()));
        await Promise.all(services.map((service) => service.end()));
      },
    };
  },
});

export const parties = row(
  "parties",
  "durable, acknowledged words of members of 50 parties of four, each told to the party; ceiling: ready in rooms of four",
  "follows",
  "a party is told whole to each member, encoded for each; a room is told a patch, encoded once",
);

export const reservations = row(
  "reservations",
  "durable, acknowledged invitations that are taken back, in 50 rooms of four; ceiling: ready in the same rooms",
  "invites",
  "a place that is kept is a deadline, an entry of an index and a directory's row; readiness is none of them",
);
