// Instances allocated and launched, each durable, beside the same rows by bare better-sqlite3.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type Command, Harbor, writeEvent } from "@yellow-harbor/core";
import { type JournalRow, loadRuntime, openSqliteHarbor, parseConfig } from "@yellow-harbor/service";
import { openBareJournal } from "./bare-journal.ts";

const OPEN = 1_000;
const HANDED_OUT = 400;
const ORDERED = 4_000;
const AT_ONCE = 100;

const CONFIG = `
harbor: bench
players: { builds: [bench-1] }
lobbies: { quayside: { title: Quayside, roomKinds: [crews] } }
roomKinds: { crews: { capacity: { max: 6 }, levels: [brine-gate] } }
levels: { brine-gate: { title: Brine Gate, players: { min: 1, max: 6 }, pool: sluice } }
builds: { none: { command: "true" } }
machines: { here: { max: 20000 } }
pools: { sluice: { build: none, ports: { from: 20000, to: 59999 }, max: 10000, plan: { spare: 0 }, reuse: any } }
`;

interface Bench {
  readonly run: (command: Command) => JournalRow[];
  readonly harbor: Harbor;
}

async function newHarbor(text = CONFIG): Promise<Bench> {
  const parsed = parseConfig(text);
  if (!parsed.ok) throw new Error("the benchmark's own configuration is wrong");
  const { rulesOf } = await loadRuntime();
  const harbor = new Harbor(rulesOf(parsed.config, [1, 2, 3, 4]));
  let [seq, stamps] = [0, 0];
  const run = (command: Command) => {
    stamps += 1;
    const rows: JournalRow[] = [];
    const stamp = {
      at: 1_700_000_000_000 + stamps,
      entropy: [stamps, (stamps * 2_654_435_761) >>> 0, 11, 13] as const,
    };
    const { refused } = harbor.execute(command, stamp, ({ event }, atMs) => {
      seq += 1;
      rows.push({ seq, atMs, ...writeEvent(event) });
    });
    if (refused) throw new Error(refused.detail);
    return rows;
  };
  run({ do: "harbor.found" });
  for (const [line, spec] of Object.entries(parsed.config.builds)) run({ do: "build.configure", line, spec });
  return { run, harbor };
}

const order = ({ run }: Bench) => run({ do: "pool.launch-ahead", pool: "sluice", why: "planned" });

/** A pool of open instances, and the allocations that are to be measured: one each time, until it is durable. */
async function allocations(folder: string): Promise<{ us: number; rows: JournalRow[][] }> {
  const bench = await newHarbor();
  for (let n = 0; n < OPEN; n++) order(bench);
  for (const { id, address } of [...bench.harbor.state.pools.instances.values()]) {
    bench.run({ do: "instance.spawned", instance: id, pid: 1 });
    bench.run({ do: "instance.announce", instance: id, port: address.port, pid: 1 });
    bench.run({ do: "instance.probed", instance: id, reached: true, detail: "reached" });
  }
  const kept = await openSqliteHarbor(folder);
  const batches: JournalRow[][] = [];
  let seq = 0;
  const begin = performance.now();
  for (let n = 0; n < HANDED_OUT; n++) {
    const room = `r_${String(n).padStart(12, "0")}`;
    const rows = bench.run({ do: "pool.allocate", pool: "sluice", room, run: `u_${String(n).padStart(12, "0")}` });
    const renumbered = rows.map((row, at) => ({ ...row, seq: seq + at + 1 }));
    await kept.eventLog.append({ rows: renumbered, instances: [] }, seq);
    seq += rows.length;
    batches.push(renumbered);
  }
  const us = ((performance.now() - begin) * 1_000) / HANDED_OUT;
  await kept.close();
  return { us, rows: batches };
}

/** Instances ordered by the second, so many of them made durable at once as a planner does. */
async function launches(folder: string): Promise<{ perSecond: number; rows: JournalRow[][] }> {
  const bench = await newHarbor();
  const kept = await openSqliteHarbor(folder);
  const batches: JournalRow[][] = [];
  let seq = 0;
  const begin = performance.now();
  for (let n = 0; n < ORDERED; n += AT_ONCE) {
    const rows: JournalRow[] = [];
    for (let each = 0; each < AT_ONCE; each++) rows.push(...order(bench));
    const renumbered = rows.map((row, at) => ({ ...row, seq: seq + at + 1 }));
    await kept.eventLog.append({ rows: renumbered, instances: [] }, seq);
    seq += rows.length;
    batches.push(renumbered);
  }
  const perSecond = (ORDERED * 1_000) / (performance.now() - begin);
  await kept.close();
  return { perSecond, rows: batches };
}

/** The same rows by prepared inserts, a transaction for each batch. Milliseconds in all. */
function bare(folder: string, batches: readonly JournalRow[][]): number {
  const journal = openBareJournal(folder);
  const begin = performance.now();
  for (const rows of batches) journal.write(rows);
  const ms = performance.now() - begin;
  journal.close();
  return ms;
}

/** Machines in four regions, full of instances but for a few places. */
const MACHINES = 1_000;
const PLACED = 10_000;
const CHOICES = 50;
let placing: Promise<Bench> | undefined;

async function placed(): Promise<Bench> {
  const names = Array.from({ length: MACHINES }, (_, n) => `m${n}`);
  const machines = names.map(
    (name, n) => `  ${name}: { max: 20, cpus: 16, region: r${n % 4}, host: 10.0.${n >> 8}.${n & 255} }`,
  );
  const text = CONFIG.replace('none: { command: "true" }', 'none: { command: "true", needs: { cpus: 0.5 } }')
    .replace("machines: { here: { max: 20000 } }", `machines:\n${machines.join("\n")}`)
    .replace("max: 10000, plan", `max: 50000, machines: [${names.join(", ")}], plan`);
  const bench = await newHarbor(text);
  for (let n = 0; n < PLACED; n++) order(bench);
  return bench;
}

/** Microseconds for each of some more. */
async function placements(): Promise<number> {
  placing ??= placed();
  const bench = await placing;
  const begin = performance.now();
  for (let n = 0; n < CHOICES; n++) order(bench);
  const us = ((performance.now() - begin) * 1_000) / CHOICES;
  return us;
}

/** What one would write first: how much runs on each machine, counted for each choice, and the emptiest of those with room. */
async function scans(): Promise<number> {
  placing ??= placed();
  const { harbor } = await placing;
  const { instances } = harbor.state.pools;
  const machines = [...harbor.rules.machines];
  let chosen = "";
  const begin = performance.now();
  for (let n = 0; n < CHOICES; n++) {
    const cpus = new Map<string, number>();
    const running = new Map<string, number>();
    for (const { machine, gone, needs } of instances.values()) {
      if (gone) continue;
      running.set(machine, (running.get(machine) ?? 0) + 1);
      cpus.set(machine, (cpus.get(machine) ?? 0) + needs.cpus);
    }
    let most = -1;
    for (const [id, { max, cpus: all, region }] of machines) {
      const free = Math.min(1 - (running.get(id) ?? 0) / max, 1 - (cpus.get(id) ?? 0) / (all ?? 1));
      if (region === null || free <= most) continue;
      most = free;
      chosen = id;
    }
  }
  const us = ((performance.now() - begin) * 1_000) / CHOICES;
  if (chosen === "") throw new Error("no machine was chosen");
  return us;
}

interface Question {
  readonly what: "allocate" | "launches" | "place";
  readonly of: "ours" | "ceiling";
}

async function answer({ what, of }: Question): Promise<number> {
  if (what === "place") return of === "ours" ? placements() : scans();
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-pools-"));
  try {
    if (what === "allocate") {
      const { us, rows } = await allocations(folder);
      return of === "ours" ? us : (bare(folder, rows) * 1_000) / HANDED_OUT;
    }
    const { perSecond, rows } = await launches(folder);
    return of === "ours" ? perSecond : (ORDERED * 1_000) / bare(folder, rows);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

process.on("message", async (question: Question) => process.send?.({ value: await answer(question) }));
