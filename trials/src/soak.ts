// Lets crews play and players come and go for a while, and fails when anything of the service grows meanwhile:
// npm run soak -- --minutes N [--crews N] [--comers N] [--json].
import { setTimeout as wait } from "node:timers/promises";
import { parseArgs } from "node:util";
import { OperatorClient } from "@yellow-harbor/client";
import { Churn, type ChurnCounts } from "./churn.ts";
import { Crew, type CrewCounts } from "./crew.ts";
import { growthOf, type Limit, type Sample } from "./growth.ts";
import { Ledger } from "./ledger.ts";
import { handlesOf } from "./proc.ts";
import { ServiceUnderTrial } from "./service-under-trial.ts";

const { values } = parseArgs({
  options: {
    minutes: { type: "string", default: "5" },
    crews: { type: "string", default: "2" },
    joiningPlayers: { type: "string", default: "6" },
    json: { type: "boolean", default: false },
  },
});
const [minutes, crewCount, joiningPlayers] = [
  Number(values.minutes),
  Number(values.crews),
  Number(values.joiningPlayers),
];
const SAMPLE_EVERY_MS = 500;
/** Short, so that those who come and those who are given up are soon as many. */
const GRACE_MS = 2_000;
const ROWS = 12;
const MIB = 2 ** 20;
/** A loop that is late by more than this at its 99th percentile holds up everybody. */
const LOOP_DELAY_MOST_MS = 50;

const limits: readonly Limit[] = [
  { name: "memory", unit: "MiB", share: 0.15, besides: 12 },
  { name: "heap", unit: "MiB", share: 0.25, besides: 8 },
  { name: "handles", unit: "", share: 0, besides: 6 },
  { name: "connections", unit: "", share: 0, besides: 4 },
  { name: "players", unit: "", share: 0.2, besides: 12 },
  { name: "rooms", unit: "", share: 0.2, besides: 8 },
  { name: "file", unit: "MiB", share: 0.2, besides: 4 },
];

const service = new ServiceUnderTrial({ graceMs: GRACE_MS });
const crewOf: CrewCounts = { resumed: 0, runs: 0, faults: [] };
const churnOf: ChurnCounts = { visits: 0, looks: 0, faults: [] };
const samples: Sample[] = [];
const say = (text: string) => process.stderr.write(`${text}\n`);
let crews: Crew[] = [];
let churn: Churn | undefined;

try {
  await service.start();
  const operator = new OperatorClient({ url: service.url });
  const ledger = new Ledger();
  crews = await Promise.all(Array.from({ length: crewCount }, (_, n) => Crew.gather(service.url, n, ledger, crewOf)));
  churn = new Churn(service.url, joiningPlayers, churnOf);
  const total = Math.max(ROWS, Math.ceil((minutes * 60_000) / SAMPLE_EVERY_MS));
  if (!values.json) say(row(["minute", "memory", "heap", "loop p99", "handles", "conns", "players", "rooms", "file"]));
  for (let n = 1; n <= total; n++) {
    await wait(SAMPLE_EVERY_MS);
    samples.push(await sample(operator));
    if (n % Math.floor(total / ROWS) === 0 && !values.json) say(describe(samples.at(-1) as Sample, n));
  }
} catch (error) {
  churnOf.faults.push(String((error as Error).stack));
} finally {
  await churn?.end();
  await Promise.all(crews.map((crew) => crew.end()));
  await service.dispose();
}

const growth = growthOf(samples, limits);
const loopDelayMs = medianOf(samples.map(({ loop = 0 }) => loop));
const faults = [...crewOf.faults, ...churnOf.faults, ...service.complaints];
const ok = faults.length === 0 && loopDelayMs <= LOOP_DELAY_MOST_MS && growth.every(({ grows }) => !grows);
const events = samples.at(-1)?.events ?? 0;
const counts = { runs: crewOf.runs, visits: churnOf.visits, looks: churnOf.looks, events };
if (values.json)
  console.log(JSON.stringify({ ok, minutes, samples: samples.length, ...counts, loopDelayMs, growth, faults }));
else {
  for (const { name, unit, before, after, grows } of growth) {
    console.log(`${grows ? "GROWS" : "flat "}  ${name.padEnd(12)} ${before.toFixed(1)} to ${after.toFixed(1)} ${unit}`);
  }
  console.log(
    `event loop late by ${loopDelayMs} ms at its 99th percentile, in the median of all looks (at most ${LOOP_DELAY_MOST_MS})`,
  );
  console.log(`${counts.runs} runs, ${counts.visits} visits, ${counts.looks} looks back, ${events} events`);
  for (const fault of new Set(faults)) console.log(`FAULT  ${fault}`);
}
process.exit(ok ? 0 : 1);

async function sample(operator: OperatorClient): Promise<Sample> {
  const { process: own, connections, players, rooms, journal } = await operator.status();
  return {
    memory: own.memoryBytes / MIB,
    heap: own.heapBytes / MIB,
    loop: own.loopDelayMs,
    connections,
    players: players.here + players.away,
    events: journal.seq,
    rooms: Object.values(rooms).reduce((sum, count) => sum + count, 0),
    handles: handlesOf(service.pid),
    file: service.fileBytes() / MIB,
  };
}

function row(cells: readonly string[]): string {
  return cells.map((cell) => cell.padStart(9)).join("");
}

function describe(one: Sample, n: number): string {
  const { memory = 0, heap = 0, loop = 0, handles, connections, players, rooms, file = 0 } = one;
  const minute = ((n * SAMPLE_EVERY_MS) / 60_000).toFixed(2);
  const sized = [memory, heap, loop].map((value) => value.toFixed(1));
  return row([minute, ...sized, ...[handles, connections, players, rooms].map(String), file.toFixed(1)]);
}

function medianOf(list: readonly number[]): number {
  return [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0;
}
