import { readEvent, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import type { RoomId, RoomView } from "@yellow-harbor/protocol";
import Database from "better-sqlite3";
import type { JournalRow } from "../journal/event-log.ts";
import type { HistoryAnswer, HistoryEvent, HistoryMoment, HistoryQuestion } from "../journal/harbor-history.ts";
import type { Snapshot } from "../journal/snapshots.ts";
import { COLUMNS, startBefore } from "./past.ts";

type Row = JournalRow;

/** What a room was like at a moment, from a database file that a service may be writing meanwhile. */
export function roomHistory(file: string, { room, at, story }: HistoryQuestion): HistoryAnswer {
  const sqlite = new Database(file, { readonly: true });
  try {
    // One view of the file for all that is read: nothing is trimmed away in between.
    return sqlite.transaction(() => {
      const upTo = momentOf(sqlite, at);
      const id = idOf(sqlite, room, upTo);
      const events = id === undefined ? [] : eventsOf(sqlite, id, upTo, story);
      const from = sqlite.prepare("SELECT seq, at_ms AS atMs FROM journal ORDER BY seq LIMIT 1").get();
      if (id === undefined || events.length === 0)
        return { found: false, from: from as HistoryEvent | undefined } as const;
      return retell(sqlite, id, events, upTo) ?? ({ found: false, from: from as HistoryEvent | undefined } as const);
    })();
  } finally {
    sqlite.close();
  }
}

/** Number of the moment's event. Times do not go back in a journal, so the newest event at a time is searched for by halves. */
function momentOf(sqlite: Database.Database, at: HistoryMoment): number {
  if (at === undefined) return Number.MAX_SAFE_INTEGER;
  if ("seq" in at) return at.seq;
  const range = sqlite.prepare("SELECT min(seq) AS low, max(seq) AS high FROM journal").get() as {
    low: number | null;
    high: number | null;
  };
  let [low, high] = [(range.low ?? 1) - 1, range.high ?? 0];
  const timeOf = sqlite.prepare("SELECT at_ms FROM journal WHERE seq = ?").pluck();
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if ((timeOf.get(middle) as number) <= at.atMs) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** A code is a room's only for as long as that is open, so the newest opening with it is meant. */
function idOf(sqlite: Database.Database, room: string, upTo: number): RoomId | undefined {
  if (room.startsWith("r_")) return room;
  const opening = sqlite
    .prepare(
      "SELECT body FROM journal WHERE seq <= ? AND kind IN ('room.opened', 'room.set-up') AND instr(body, ?) ORDER BY seq DESC LIMIT 1",
    )
    .pluck()
    .get(upTo, JSON.stringify({ code: room.toUpperCase() }).slice(1, -1)) as string | undefined;
  return opening === undefined ? undefined : (JSON.parse(opening) as { room: RoomId }).room;
}

/** Events that name a room and tell something of it. Latencies are measured all the time: they are shown, not told. */
const OF_ROOM = "instr(body, ?)";
const TOLD_OF_ROOM = `kind NOT IN ('room.measured', 'travel.progressed', 'travel.berth-freed') AND ${OF_ROOM}`;
const naming = (room: RoomId) => `"room":${JSON.stringify(room)}`;

/** The newest events of a room up to a moment, oldest first. */
function eventsOf(sqlite: Database.Database, room: RoomId, upTo: number, max: number): Row[] {
  const rows = sqlite
    .prepare(`SELECT ${COLUMNS} FROM journal WHERE seq <= ? AND ${TOLD_OF_ROOM} ORDER BY seq DESC LIMIT ?`)
    .all(upTo, naming(room), max) as Row[];
  return rows.reverse();
}

/** Goes through the past from the snapshot before the first event, and tells the events on the way. */
function retell(
  sqlite: Database.Database,
  room: RoomId,
  events: readonly Row[],
  upTo: number,
): HistoryAnswer | undefined {
  const [first, last] = [events[0] as Row, events.at(-1) as Row];
  const start = startBefore(sqlite, first.seq);
  if (start === undefined) return undefined;
  const { past } = start;
  const wanted = new Set(events.map(({ seq }) => seq));
  const rows = sqlite.prepare(`SELECT ${COLUMNS} FROM journal WHERE seq > ? AND seq <= ? ORDER BY seq`);
  const story: HistoryEvent[] = [];
  let view: RoomView | undefined;
  for (const row of rows.iterate(start.seq, lastOf(sqlite, room, upTo)) as IterableIterator<Row>) {
    const { seq, atMs, kind } = row;
    const event = readEvent(row);
    if (wanted.has(seq)) {
      const before = past.room(room);
      // Members leave before their room closes: what it was like with them tells more than what was left of it.
      if (before && (view === undefined || Object.keys(before.members).length > 0)) view = before;
      story.push({ seq, atMs, kind, text: past.describe(event, atMs) });
    } else past.replay(event, atMs);
  }
  const after = past.room(room);
  const shown = after ?? view;
  if (shown === undefined) return undefined;
  return { found: true, room: shown, closed: after === undefined, story, next: nextOf(sqlite, room, last.seq) };
}

/** Makes a snapshot of everything up to an event: from the one before it and the events since. */
export function snapshotAt(file: string, seq: number): Snapshot {
  const sqlite = new Database(file, { readonly: true });
  try {
    return sqlite.transaction(() => {
      const start = startBefore(sqlite, seq + 1);
      if (start === undefined) throw new Error("no older snapshot can be read, and the journal is trimmed");
      const rows = sqlite.prepare(`SELECT ${COLUMNS} FROM journal WHERE seq > ? AND seq <= ? ORDER BY seq`);
      for (const row of rows.iterate(start.seq, seq) as IterableIterator<Row>)
        start.past.replay(readEvent(row), row.atMs);
      return { seq, version: SNAPSHOT_VERSION, body: start.past.snapshot() };
    })();
  } finally {
    sqlite.close();
  }
}

function nextOf(sqlite: Database.Database, room: RoomId, after: number): number | undefined {
  return sqlite
    .prepare(`SELECT seq FROM journal WHERE seq > ? AND ${TOLD_OF_ROOM} ORDER BY seq LIMIT 1`)
    .pluck()
    .get(after, naming(room)) as number | undefined;
}

/** Number of the newest event of a room up to a moment, told or not. */
function lastOf(sqlite: Database.Database, room: RoomId, upTo: number): number {
  return sqlite
    .prepare(`SELECT seq FROM journal WHERE seq <= ? AND ${OF_ROOM} ORDER BY seq DESC LIMIT 1`)
    .pluck()
    .get(upTo, naming(room)) as number;
}
