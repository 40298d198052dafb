import type { PersonEvent } from "@yellow-harbor/protocol";
import type Database from "better-sqlite3";
import { chained, NOTHING_YET, sumOf } from "./chain.ts";
import type { AnyRow } from "./packing.ts";

/** What is kept of somebody: the players that an account was, or a guest's one. */
export interface Person {
  readonly players: ReadonlySet<string>;
  readonly account: string | undefined;
  readonly names: ReadonlySet<string>;
  /** Under what names were kept where they are unique. */
  readonly uniqueNames: ReadonlySet<string>;
}

interface Connected {
  readonly player: string;
  readonly name?: string;
  readonly uniqueName?: string;
  readonly identity?: { readonly account: string };
}

const COLUMNS = "seq, at_ms AS atMs, kind, version, body, chain";
const SAYS_WHO = "kind IN ('player.connected', 'player.identified')";
/** Events that one export holds. */
const EXPORT_MAX = 50_000;

/** Who is meant by an account or the id of a player, as far as the journal still knows. */
export function findPerson(sqlite: Database.Database, who: string): Person {
  const naming = sqlite.prepare(`SELECT body FROM journal WHERE ${SAYS_WHO} AND instr(body, ?) ORDER BY seq`).pluck();
  const events = (text: string) =>
    (naming.all(JSON.stringify(text)) as string[]).map((body) => JSON.parse(body) as Connected);
  const isPlayer = who.startsWith("p_");
  const account = isPlayer ? events(who).findLast(({ player }) => player === who)?.identity?.account : who;
  const own = account === undefined ? [] : events(account).filter(({ identity }) => identity?.account === account);
  const players = new Set([...(isPlayer ? [who] : []), ...own.map(({ player }) => player)]);
  const told = [...players].flatMap((player) => events(player).filter((event) => event.player === player));
  return {
    players,
    account,
    names: new Set(told.flatMap(({ name }) => name ?? [])),
    uniqueNames: new Set(told.flatMap(({ uniqueName }) => uniqueName ?? [])),
  };
}

const wordsOf = ({ players, account }: Person): string[] =>
  [...players, ...(account === undefined ? [] : [account])].map((word) => JSON.stringify(word));

/** All events that name somebody, the oldest first, and whether there are more than are given. */
export function eventsOf(sqlite: Database.Database, person: Person): { events: PersonEvent[]; more: boolean } {
  const words = wordsOf(person);
  if (words.length === 0) return { events: [], more: false };
  const where = words.map(() => "instr(body, ?)").join(" OR ");
  const rows = sqlite.prepare(`SELECT ${COLUMNS} FROM journal WHERE ${where} ORDER BY seq LIMIT ?`);
  const found = rows.all(...words, EXPORT_MAX + 1) as (AnyRow & { body: string })[];
  const events = found.slice(0, EXPORT_MAX).map(({ seq, atMs, kind, body }) => {
    const { kind: _, ...event } = JSON.parse(body) as Record<string, unknown>;
    return { seq, atMs, kind, event };
  });
  return { events, more: found.length > EXPORT_MAX };
}

export interface Erased {
  /** Events in which something was replaced. */
  readonly events: number;
  /** Sum of the journal now. */
  readonly chain: Buffer | undefined;
}

/**
 * Replaces the names and the account of somebody in everything that is kept, and makes the sums anew from there on. Ids of
 * players stay: they say nothing of anybody any more. To be called in a transaction.
 */
export function erasePerson(sqlite: Database.Database, person: Person, tag: string): Erased {
  const words = wordsOf(person);
  const isNamed = (text: string) => words.some((word) => text.includes(word));
  // In a state somebody who is gone may stand by its name alone, or in the key of what is kept for its account.
  const mayTell = (text: string) =>
    isNamed(text) || [...person.names, `"account:${person.account}"`].some((one) => text.includes(one));
  const { rows, together } = rowsAbout(sqlite, person);
  const scrub = scrubber(person, tag, together);
  const setBody = sqlite.prepare("UPDATE journal SET body = ? WHERE seq = ?");
  for (const { seq, body } of rows) setBody.run(JSON.stringify(scrub(JSON.parse(body), true)), seq);
  const sums = rows.length === 0 ? undefined : chainAnew(sqlite);
  const setSnapshot = sqlite.prepare("UPDATE snapshots SET body = ?, sum = ?, chain = ? WHERE seq = ?");
  const snapshots = sqlite.prepare("SELECT seq, body, chain FROM snapshots").iterate();
  const changed: [string, Buffer, Buffer | null, number][] = [];
  for (const one of snapshots as IterableIterator<{ seq: number; body: string; chain: Buffer | null }>) {
    const body = mayTell(one.body) ? JSON.stringify(scrub(JSON.parse(one.body), false)) : one.body;
    changed.push([body, sumOf(body), one.chain === null ? null : (sums?.get(one.seq) ?? one.chain), one.seq]);
  }
  for (const values of changed) setSnapshot.run(...values);
  const setView = sqlite.prepare("UPDATE instances SET view = ? WHERE id = ?");
  const views = sqlite.prepare("SELECT id, view FROM instances").all() as { id: string; view: string }[];
  for (const { id, view } of views) if (isNamed(view)) setView.run(JSON.stringify(scrub(JSON.parse(view), true)), id);
  for (const table of ["webhook_events", "dead_events"]) {
    const setEvent = sqlite.prepare(`UPDATE ${table} SET event = ? WHERE rowid = ?`);
    const events = sqlite.prepare(`SELECT rowid AS id, event FROM ${table}`).all() as { id: number; event: string }[];
    for (const { id, event } of events)
      if (isNamed(event)) setEvent.run(JSON.stringify(scrub(JSON.parse(event), true)), id);
  }
  return { events: rows.length, chain: sums?.get(-1) };
}

/** Rooms, runs, tickets, matches and parties that a text names. */
const TOGETHER = /"[rutmg]_[0-9a-z]{12,14}"/g;

/** Events that name somebody by an id, and those of the same rooms and searches that tell of it by its name alone. */
function rowsAbout(
  sqlite: Database.Database,
  person: Person,
): { readonly rows: { seq: number; body: string }[]; readonly together: ReadonlySet<string> } {
  const words = wordsOf(person);
  const naming = sqlite.prepare("SELECT seq, body FROM journal WHERE instr(body, ?)");
  const found = new Map<number, string>();
  const together = new Set<string>();
  for (const { seq, body } of words.flatMap((word) => naming.all(word) as { seq: number; body: string }[])) {
    found.set(seq, body);
    for (const [id] of body.matchAll(TOGETHER)) together.add(id);
  }
  for (const { seq, body } of [...person.names].flatMap(
    (name) => naming.all(name) as { seq: number; body: string }[],
  )) {
    if ([...body.matchAll(TOGETHER)].some(([id]) => together.has(id))) found.set(seq, body);
  }
  return { rows: [...found].map(([seq, body]) => ({ seq, body })), together };
}

/** Makes all sums anew. Resolves to the sum at the end of each batch, and under -1 the last one. */
function chainAnew(sqlite: Database.Database): Map<number, Buffer> {
  const first = sqlite.prepare("SELECT min(seq) FROM journal").pluck().get() as number;
  const kept = sqlite
    .prepare("SELECT chain FROM snapshots WHERE seq = ?")
    .pluck()
    .get(first - 1) as Buffer | null | undefined;
  let sum = kept ?? NOTHING_YET;
  let batch: AnyRow[] = [];
  const sums = new Map<number, Buffer>();
  for (const row of sqlite.prepare(`SELECT ${COLUMNS} FROM journal ORDER BY seq`).iterate() as IterableIterator<
    AnyRow & { chain: Buffer | null }
  >) {
    batch.push(row);
    if (row.chain === null) continue;
    sum = chained(sum, batch);
    batch = [];
    sums.set(row.seq, sum);
    sums.set(-1, sum);
  }
  const setChain = sqlite.prepare("UPDATE journal SET chain = ? WHERE seq = ?");
  for (const [seq, chain] of sums) if (seq > 0) setChain.run(chain, seq);
  return sums;
}

const ERASED = "erased";

/** What replaces somebody in a value: names beside its ids, its account everywhere, and in texts of its own events its names. */
function scrubber({ players, account, names, uniqueNames }: Person, tag: string, together: ReadonlySet<string>) {
  const inText = (text: string): string => [...names].reduce((all, name) => all.replaceAll(name, ERASED), text);
  const ofText = (text: string, isOwn: boolean): string => {
    if (text === account) return `${ERASED}:${tag}`;
    // The key under which something is kept for an account.
    if (account !== undefined && text === `account:${account}`) return `account:${ERASED}:${tag}`;
    if (uniqueNames.has(text)) return `${ERASED} ${tag}`;
    return isOwn ? inText(text) : text;
  };
  const scrub = (value: unknown, isOwn: boolean): unknown => {
    if (typeof value === "string") return ofText(value, isOwn);
    if (Array.isArray(value)) return value.map((one) => scrub(one, isOwn));
    if (typeof value !== "object" || value === null) return value;
    const entries = Object.entries(value);
    const isAbout = entries.some(([, one]) => typeof one === "string" && players.has(one));
    // What somebody had a part in may be called after it.
    const isShared = isOwn || ("id" in value && together.has(JSON.stringify(value.id)));
    return Object.fromEntries(
      entries.map(([key, one]) => [
        key,
        isAbout && key === "name" && names.has(String(one)) ? ERASED : scrub(one, isShared),
      ]),
    );
  };
  return scrub;
}
