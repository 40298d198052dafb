import { Harbor, type HarborRules, inTodaysForm } from "@yellow-harbor/core";
import type { EventLog, JournalRow } from "../journal/event-log.ts";
import type { Found } from "../journal/kept-harbor.ts";

const READ_AT_ONCE = 10_000;

/** The harbor as it was: the newest snapshot, then the journal's tail. */
export async function recoverHarbor(
  rules: HarborRules,
  opened: Pick<Found, "eventLog" | "lastSeq" | "snapshot">,
): Promise<Harbor> {
  const { eventLog, lastSeq } = opened;
  if (lastSeq === 0) return new Harbor(rules);
  const snapshot = await opened.snapshot;
  // The tail is read while the snapshot is taken apart, and each part of it while the one before is replayed.
  const first = (snapshot?.seq ?? 0) + 1;
  let reading = readOn(eventLog, first);
  const restored = snapshot && Harbor.fromSnapshot(rules, snapshot.body);
  const harbor = restored ?? new Harbor(rules);
  let seq = restored ? first - 1 : 0;
  if (snapshot && !restored) reading = readOn(eventLog, 1);
  while (seq < lastSeq) {
    const rows = await reading;
    const last = rows.at(-1);
    if (last === undefined) throw gapAt(seq + 1);
    if (last.seq < lastSeq) reading = readOn(eventLog, last.seq + 1);
    seq = replay(harbor, rows, seq);
  }
  return harbor;
}

function readOn(eventLog: EventLog, from: number): Promise<JournalRow[]> {
  const reading = eventLog.read(from, READ_AT_ONCE);
  // Awaited when its turn comes; a failure meanwhile must not count as unhandled.
  reading.catch(() => undefined);
  return reading;
}

/** Replays events that have to follow the event `after`; returns the number of the last one. */
function replay(harbor: Harbor, rows: readonly JournalRow[], after: number): number {
  // One text is parsed several times as fast as many short ones.
  const events = JSON.parse(`[${rows.map(({ body }) => body).join(",")}]`) as unknown[];
  let seq = after;
  for (const [n, row] of rows.entries()) {
    if (row.seq !== seq + 1) throw gapAt(seq + 1);
    harbor.replay(inTodaysForm(events[n], row), row.atMs);
    seq = row.seq;
  }
  return seq;
}

const gapAt = (seq: number) => new Error(`the journal has a gap: event ${seq} is missing; restore a backup`);
