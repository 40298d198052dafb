// Durable events per second: through the service's journal, or by prepared inserts of the same rows on bare better-sqlite3.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type JournalRow, openSqliteHarbor } from "@yellow-harbor/service";
import { openBareJournal } from "./bare-journal.ts";

const BATCH = 100;

const event = (seq: number) => ({
  kind: "room.ready-set",
  room: "r_4kq2m7c9x0ab",
  player: "p_4kq2m7c9x0ab",
  ready: seq % 2 === 0,
});
const rowsFrom = (seq: number): JournalRow[] =>
  Array.from({ length: BATCH }, (_, n) => ({
    seq: seq + n,
    atMs: 1_700_000_000_000 + n,
    kind: "room.ready-set",
    version: 1,
    body: JSON.stringify(event(seq + n)),
  }));

async function ours(folder: string, ms: number): Promise<number> {
  const kept = await openSqliteHarbor(folder);
  let seq = 0;
  let rows = rowsFrom(1);
  const begin = performance.now();
  while (performance.now() - begin < ms) {
    // As the service does it: the next batch is made while the last one is being written.
    const written = kept.eventLog.append({ rows, instances: [] }, seq);
    seq += BATCH;
    rows = rowsFrom(seq + 1);
    await written;
  }
  const perSecond = seq / ((performance.now() - begin) / 1000);
  await kept.close();
  return perSecond;
}

function ceiling(folder: string, ms: number): number {
  const journal = openBareJournal(folder);
  let seq = 0;
  const begin = performance.now();
  while (performance.now() - begin < ms) {
    journal.write(rowsFrom(seq + 1));
    seq += BATCH;
  }
  const perSecond = seq / ((performance.now() - begin) / 1000);
  journal.close();
  return perSecond;
}

process.on("message", async ({ what, ms }: { what: "ours" | "ceiling"; ms: number }) => {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-commit-"));
  try {
    process.send?.({ perSecond: what === "ours" ? await ours(folder, ms) : ceiling(folder, ms) });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
