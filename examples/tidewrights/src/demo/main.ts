import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { parseArgs } from "node:util";
import { OperatorClient } from "@yellow-harbor/client";
import { liveAsBot } from "./bots.ts";
import { ServiceStartError, startService } from "./service-process.ts";
import { tellStory } from "./story.ts";
import { playVoyage, type VoyageStep } from "./voyage.ts";

const USAGE = `npm run demo [-- --once [--json]] [--port N] [--bots N] [--workers N]

  --once     play exactly one voyage with two players, then end
  --json     with --once: print one JSON object and nothing else
  --port N   listen on another port than 7420; 0 takes any free one
  --bots N   how many bots live in the demo (2 to 60; 12 when absent)
  --workers N  how many processes the service runs in (1 when absent)`;

/** How long the bots may take to say goodbye. */
const GOODBYE_MS = 500;

const ENOUGH_TO_MATCH = 9;

const NAMES = [
  "Ansel",
  "Brisa",
  "Corin",
  "Dovie",
  "Edda",
  "Fenn",
  "Gitta",
  "Hale",
  "Ines",
  "Jory",
  "Kell",
  "Lunet",
  "Marit",
  "Nils",
  "Odile",
  "Perrin",
];

interface DemoOptions {
  readonly once: boolean;
  readonly json: boolean;
  readonly port: number;
  readonly bots: number;
  readonly workers: number;
}

function readOptions(): DemoOptions | undefined {
  try {
    const { values } = parseArgs({
      options: {
        once: { type: "boolean", default: false },
        json: { type: "boolean", default: false },
        port: { type: "string", default: "7420" },
        bots: { type: "string", default: "12" },
        workers: { type: "string", default: "1" },
      },
    });
    const port = wholeNumber("--port", values.port, 0, 65_535);
    const bots = wholeNumber("--bots", values.bots, 2, 60);
    const workers = wholeNumber("--workers", values.workers, 1, 256);
    return { once: values.once, json: values.json, port, bots, workers };
  } catch (error) {
    process.stderr.write(`${(error as Error).message}\n\n${USAGE}\n`);
    return undefined;
  }
}

function wholeNumber(option: string, typed: string, min: number, max: number): number {
  const value = Number(typed);
  if (typed.trim() !== "" && Number.isInteger(value) && value >= min && value <= max) return value;
  throw new Error(`${option} ${typed} is not a whole number from ${min} to ${max}.`);
}

async function once({ json, port, workers }: DemoOptions): Promise<number> {
  // A folder of its own, so that a voyage finds nothing of an earlier one.
  const data = mkdtempSync(join(tmpdir(), "tidewrights-"));
  const service = await startService({ port, data, workers });
  try {
    const print = ({ name, ok, ms, detail }: VoyageStep) => {
      if (!json) console.log(`${ok ? "ok  " : "FAIL"}  ${name.padEnd(16)} ${String(ms).padStart(5)} ms  ${detail}`);
    };
    if (!json) console.log(`One voyage on ${service.url}`);
    const report = await playVoyage(service.url, print);
    if (json) console.log(JSON.stringify(report));
    const failed = report.steps.find((step) => !step.ok);
    if (failed) process.stderr.write(`The voyage failed at ${failed.name}: ${failed.detail}\n`);
    else if (!json) console.log(`Every step held. Next: npm run demo, and open ${service.url}`);
    return report.ok ? 0 : 1;
  } finally {
    await service.stop();
    rmSync(data, { recursive: true, force: true });
  }
}

async function live({ port, bots, workers }: DemoOptions): Promise<number> {
  const service = await startService({ port, workers });
  const abort = new AbortController();
  console.log(`Yellow Harbor is at ${service.url}   (Ctrl-C ends everything)`);
  const told = new Promise<"told">((resolve) => {
    for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"] as const) process.on(signal, () => resolve("told"));
  });
  const { code } = await new OperatorClient({ url: service.url }).logInLink();
  console.log(`Open the console, logged in:  ${service.url}/#log-in=${code}`);
  console.log("Look in from another terminal: npm run yh -- status, yh -- watch, yh -- play --name You\n");
  const names = Array.from(
    { length: bots },
    (_, n) => (n < NAMES.length ? NAMES[n] : `${NAMES[n % NAMES.length]} ${1 + Math.floor(n / NAMES.length)}`) ?? "",
  );
  const lives = names.map((name, n) =>
    liveAsBot({
      url: service.url,
      name,
      runsPerRoom: 2,
      signal: abort.signal,
      chance: Math.random,
      // With few of them a match would hardly ever come together.
      searches: bots < ENOUGH_TO_MATCH ? 0 : 0.6,
      lobby: n % 3 === 2 ? "far-light" : "quayside",
    }),
  );
  const story = tellStory(service.url, (line) => console.log(line), abort.signal);
  const end = await Promise.race([told, service.ended, Promise.all([story, ...lives]).then(() => "over" as const)]);
  abort.abort();
  await Promise.race([Promise.allSettled(lives), wait(GOODBYE_MS)]);
  if (end === "told") console.log("\nEnding: players are told, instances are stopped.");
  await service.stop();
  return end === "told" ? 0 : 1;
}

async function main(): Promise<number> {
  const options = readOptions();
  if (options === undefined) return 2;
  try {
    return await (options.once ? once(options) : live(options));
  } catch (error) {
    if (!(error instanceof ServiceStartError)) throw error;
    // Title and code stand in the first line; what to do stands in the last one.
    process.stderr.write(`${error.message.split("\n").at(-1)}\n`);
    return error.exitCode ?? 1;
  }
}

process.exit(await main());
