// Kills the service at random moments while crews play and write, starts it again, and compares what is there with what
// was acknowledged and shown: npm run crash -- --rounds N [--crews N] [--workers N] [--seed N] [--json]. With workers most kills are
// theirs, and the service goes on.
import { setTimeout as wait } from "node:timers/promises";
import { parseArgs } from "node:util";
import { OperatorClient } from "@yellow-harbor/client";
import fc from "fast-check";
import { Crew, type CrewCounts } from "./crew.ts";
import { audit, Ledger } from "./ledger.ts";
import { ServiceUnderTrial } from "./service-under-trial.ts";
import { Waiters } from "./waiters.ts";

const { values } = parseArgs({
  options: {
    rounds: { type: "string", default: "10" },
    crews: { type: "string", default: "4" },
    workers: { type: "string", default: "1" },
    seed: { type: "string", default: String(Date.now() % 1_000_000) },
    json: { type: "boolean", default: false },
  },
});
const [rounds, crewCount, seed] = [Number(values.rounds), Number(values.crews), Number(values.seed)];
const say = (text: string) => process.stderr.write(`${text}\n`);

/** When each round's kill comes, in milliseconds after the last start. */
const moments = fc.sample(fc.integer({ min: 100, max: 4_000 }), { numRuns: rounds, seed });
const BACK_MS = 30_000;

const workers = Number(values.workers);
/** Which of the processes each kill is for: 0 is the service itself. */
const victims = fc.sample(fc.integer({ min: 0, max: 2 * (workers - 1) }), { numRuns: rounds, seed: seed + 1 });

const service = new ServiceUnderTrial({ workers });
const ledger = new Ledger();
const counts: CrewCounts = { resumed: 0, runs: 0, faults: [] };
const total = { searchesLost: 0, lost: 0, unannounced: 0, instancesKept: 0, instancesLost: 0 };
let workersKilled = 0;
let done = 0;
let crews: Crew[] = [];
let waiters: Waiters | undefined;
const WAITERS = 6;

try {
  await service.start();
  const operator = new OperatorClient({ url: service.url });
  crews = await Promise.all(Array.from({ length: crewCount }, (_, n) => Crew.gather(service.url, n, ledger, counts)));
  waiters = await Waiters.begin(service.url, WAITERS);
  say(`${crewCount} crews on ${service.url}, seed ${seed}`);
  for (const [round, momentMs] of moments.entries()) {
    await wait(momentMs);
    const running = await operator.instances();
    const worker = await workerToKill(operator, victims[round] ?? 0);
    if (worker === undefined) await service.kill();
    else process.kill(worker, "SIGKILL");
    // What is taken down now was acknowledged and shown by a service that is gone.
    const before = ledger.copy();
    const alive = running.instances.filter(({ pid }) => pid !== undefined && isAlive(pid));
    if (worker === undefined) await service.start();
    else workersKilled += 1;
    const kept = await instancesNow(operator);
    await Promise.all(crews.map((crew) => crew.untilBack(BACK_MS)));
    const boards = new Map((await operator.rooms()).rooms.map(({ id, board }) => [id, board]));
    const found = audit(before, (key) => {
      const [room = "", name = ""] = key.split(" ");
      return Number(boards.get(room)?.[name]?.box[0] ?? 0);
    });
    total.searchesLost += await waiters.lost(operator);
    const keptNow = alive.filter(({ id, pid = 0 }) => kept.has(id) && isAlive(pid)).length;
    total.lost += found.lost;
    total.unannounced += found.unannounced;
    total.instancesKept += keptNow;
    total.instancesLost += alive.length - keptNow;
    done = round + 1;
    say(
      `round ${done}: ${worker === undefined ? "service" : "worker"} killed after ${momentMs} ms; ${ledger.acknowledged} acknowledged, ${found.lost} lost, ${found.unannounced} unannounced, ${keptNow} of ${alive.length} instances kept, ${counts.resumed} resumed, ${counts.runs} runs`,
    );
  }
} catch (error) {
  counts.faults.push(String((error as Error).stack));
} finally {
  await Promise.all(crews.map((crew) => crew.end()));
  waiters?.end();
  await service.dispose();
}

const { lost, unannounced, instancesKept, instancesLost, searchesLost } = total;
const { resumed, runs, faults } = counts;
const ok = done === rounds && lost + unannounced + instancesLost + searchesLost === 0 && faults.length === 0;
const report = { ok, rounds: done, acknowledged: ledger.acknowledged, lost, unannounced, resumed, instancesKept };
const more = { instancesLost, searchesLost, workersKilled, runs, seed, faults: [...new Set(faults)] };
if (values.json) console.log(JSON.stringify({ ...report, ...more }));
else for (const [name, value] of Object.entries({ ...report, ...more })) console.log(`${name.padEnd(14)} ${value}`);
process.exit(ok ? 0 : 1);

/** The process of one of the service's workers; undefined for the service itself, and while it has none. */
async function workerToKill(operator: OperatorClient, victim: number): Promise<number | undefined> {
  const { workers: views } = await operator.status();
  const all = views?.workers ?? [];
  return victim === 0 ? undefined : all[victim % Math.max(1, all.length)]?.pid;
}

/** Instances that the service holds to be running. Those that ended by themselves meanwhile are not its fault. */
async function instancesNow(operator: OperatorClient): Promise<ReadonlySet<string>> {
  const { instances } = await operator.instances();
  return new Set(instances.filter(({ exit }) => exit === undefined).map(({ id }) => id));
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}
