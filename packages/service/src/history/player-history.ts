import { type EventKind, readEvent } from "@yellow-harbor/core";
import type { PlayerId } from "@yellow-harbor/protocol";
import Database from "better-sqlite3";
import type { JournalRow } from "../journal/event-log.ts";
import type { HistoryEvent, PlayerHistoryAnswer, PlayerHistoryQuestion } from "../journal/harbor-history.ts";
import { COLUMNS, startBefore } from "./past.ts";

/** Measured all the time; what is said of a player without it is what it did and what happened to it. */
const NOISE = ["player.measured", "room.measured", "room.peers-measured", "travel.progressed", "lobby.tallied"];
const NAMES_PLAYER = `kind NOT IN (${NOISE.map((kind) => `'${kind}'`).join(", ")}) AND instr(body, ?)`;

/** What happens to all members of a room without naming them. */
const OF_ROOM: ReadonlySet<string> = new Set<EventKind>([
  ...(["room.counting", "room.count-stopped", "room.started", "room.playing", "room.result-set"] as const),
  ...(["room.returned", "room.gathered", "room.closed", "room.host-changed", "room.level-picked"] as const),
  ...(["travel.called", "travel.retried", "travel.rerouted", "travel.completed", "travel.failed"] as const),
]);

/** What a player did and what happened to it, from a database file that a service may be writing meanwhile. */
export function playerHistory(file: string, question: PlayerHistoryQuestion): PlayerHistoryAnswer {
  const sqlite = new Database(file, { readonly: true });
  try {
    return sqlite.transaction(() => tell(sqlite, question))();
  } finally {
    sqlite.close();
  }
}

function tell(sqlite: Database.Database, { player, before, story: most }: PlayerHistoryQuestion): PlayerHistoryAnswer {
  const upTo = (before ?? Number.MAX_SAFE_INTEGER) - 1;
  const { numbers, isWhole } = namedBy(sqlite, player, upTo, most);
  const [newest, oldest] = [numbers[0], numbers.at(-1)];
  if (newest === undefined || oldest === undefined) return { found: false };
  const start = startBefore(sqlite, oldest);
  if (start === undefined) return { found: false };
  const { past } = start;
  const named = new Set(numbers);
  const told: HistoryEvent[] = [];
  const rows = sqlite.prepare(`SELECT ${COLUMNS} FROM journal WHERE seq > ? AND seq <= ? ORDER BY seq`);
  for (const row of rows.iterate(start.seq, upTo) as IterableIterator<JournalRow>) {
    const { seq, atMs, kind } = row;
    // Whoever is in no room is told of by name alone.
    if (seq > newest && past.roomOf(player) === undefined) break;
    const event = readEvent(row);
    const isTold = named.has(seq) || (seq > oldest && OF_ROOM.has(kind) && isOfRoom(event, past.roomOf(player)));
    if (!isTold) past.replay(event, atMs);
    else {
      const text = past.describe(event, atMs);
      if (text !== undefined) told.push({ seq, atMs, kind, text });
    }
  }
  const story = told.slice(-most);
  if (told.length > most) return { found: true, story, older: story[0]?.seq };
  return { found: true, story, older: isWhole ? undefined : oldest };
}

/**
 * Numbers of the newest events up to one that name a player, the newest first, and whether there are none before. The id is
 * made as the player comes in, so nothing before that is looked through, however long the journal is.
 */
function namedBy(sqlite: Database.Database, player: string, upTo: number, most: number) {
  const rows = sqlite
    .prepare(
      `SELECT seq, kind = 'player.connected' AND instr(body, ?) > 0 AS comes
       FROM journal WHERE seq <= ? AND ${NAMES_PLAYER} ORDER BY seq DESC`,
    )
    .iterate(`"player":${JSON.stringify(player)}`, upTo, JSON.stringify(player));
  const numbers: number[] = [];
  for (const { seq, comes } of rows as IterableIterator<{ seq: number; comes: 0 | 1 }>) {
    if (numbers.length === most) return { numbers, isWhole: false };
    numbers.push(seq);
    if (comes === 1) break;
  }
  return { numbers, isWhole: true };
}

const isOfRoom = (event: object, room: PlayerId | undefined): boolean =>
  room !== undefined && "room" in event && event.room === room;
