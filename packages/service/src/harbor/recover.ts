import { Harbor, type HarborEvent, type HarborRules } from "@yellow-harbor/core";
import type { Journal } from "../journal/journal.ts";

const READ_AT_ONCE = 10_000;

/** The harbor as it was: the newest snapshot, then the journal's tail. */
export async function recoverHarbor(rules: HarborRules, journal: Journal, lastSeq: number): Promise<Harbor> {
  if (lastSeq === 0) return new Harbor(rules);
  const snapshot = await journal.newestSnapshot();
  const restored = snapshot && Harbor.fromSnapshot(rules, snapshot.body);
  const harbor = restored ?? new Harbor(rules);
  let seq = restored ? (snapshot?.seq ?? 0) : 0;
  while (seq < lastSeq) {
    const rows = await journal.read(seq + 1, READ_AT_ONCE);
    if (rows.length === 0) throw gapAt(seq + 1);
    for (const row of rows) {
      if (row.seq !== seq + 1) throw gapAt(seq + 1);
      harbor.replay(JSON.parse(row.body) as HarborEvent, row.atMs);
      seq = row.seq;
    }
  }
  return harbor;
}

const gapAt = (seq: number) => new Error(`the journal has a gap: event ${seq} is missing; restore a backup`);
