import { isDeepStrictEqual } from "node:util";
import { Harbor, type HarborRules, invariantViolations, lobbyView, readEvent, roomView } from "@yellow-harbor/core";
import type { JournalRow } from "@yellow-harbor/service";
import { Fault } from "./fault.ts";

const REVISIONS_KEPT = 300;

type Scope = "room" | "lobby";

/**
 * The harbor as far as it is durable: made from the disk alone. Whatever anybody holds or is told has to be in it, and a
 * service that was started again has to be equal to it.
 */
export class Shadow {
  readonly harbor: Harbor;
  /** States by `scope:id`, then by revision. */
  readonly #states = new Map<string, Map<number, unknown>>();
  readonly kinds = new Map<string, number>();
  lastAtMs = 0;
  /** The newest time that a service has gone by, as far as it was looked at. */
  seenAtMs = 0;
  #isChecked = true;

  constructor(rules: HarborRules) {
    this.harbor = new Harbor(rules);
  }

  get state() {
    return this.harbor.state;
  }

  take(row: JournalRow): void {
    const { kind, atMs } = row;
    if (atMs < this.lastAtMs) throw new Fault("time-back", `event ${kind} at ${atMs} after one at ${this.lastAtMs}`);
    this.lastAtMs = atMs;
    const event = readEvent(row);
    this.harbor.replay(event, atMs);
    this.kinds.set(kind, (this.kinds.get(kind) ?? 0) + 1);
    this.#isChecked = false;
    const touched = "room" in event ? event.room : null;
    const { rooms, lobbies } = this.state;
    for (const room of rooms.byId.values()) {
      if (room.id === touched || !this.#states.get(`room:${room.id}`)?.has(room.revision)) {
        this.#note("room", room.id, room.revision, () => roomView(this.state, room));
      }
    }
    for (const { id, revision } of lobbies.byId.values()) {
      this.#note("lobby", id, revision, () => lobbyView(this.state, id));
    }
  }

  /** Throws when something is in the durable state that must never be there. */
  check(): void {
    if (this.#isChecked) return;
    this.#isChecked = true;
    const [fault] = invariantViolations(this.state);
    if (fault !== undefined) throw new Fault("unsound", fault);
  }

  /** Throws unless a state that somebody holds is what was durable at its revision. */
  checkState(who: string, scope: Scope, state: { readonly id: string; readonly revision: number }): void {
    const { id, revision } = state;
    const known = this.#states.get(`${scope}:${id}`);
    const newest = known === undefined ? 0 : Math.max(...known.keys());
    if (known === undefined || revision > newest) {
      throw new Fault("unannounced", `${who} was shown ${scope} ${id} at revision ${revision}; durable is ${newest}`);
    }
    const durable = known.get(revision);
    if (durable === undefined || isDeepStrictEqual(plain(state), durable)) return;
    const text = `${JSON.stringify(state)} instead of ${JSON.stringify(durable)}`;
    throw new Fault("wrong-state", `${who} holds ${scope} ${id} at revision ${revision} as ${text}`);
  }

  /** Throws unless a harbor is the same as this one, but for deadlines that are past at `atMs`. */
  checkEqual(other: Harbor, code: string, atMs: number): void {
    const [theirs, ours] = [comparable(other, atMs), comparable(this.harbor, atMs)];
    if (theirs === ours) return;
    const at = [...ours].findIndex((letter, n) => letter !== theirs[n]);
    const near = (text: string) => text.slice(Math.max(0, at - 200), at + 200);
    throw new Fault(code, `…${near(theirs)}… instead of …${near(ours)}…`);
  }

  #note(scope: Scope, id: string, revision: number, view: () => unknown): void {
    const key = `${scope}:${id}`;
    const known = this.#states.get(key) ?? new Map<number, unknown>();
    this.#states.set(key, known);
    if (scope === "lobby" && known.has(revision)) return;
    known.set(revision, plain(view()));
    if (known.size > REVISIONS_KEPT) known.delete(known.keys().next().value as number);
  }
}

/** As it goes over the wire. */
const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value));

// A deadline that fell due and changed nothing left no event: it is due once more after a recovery, and changes nothing.
// Looks at queues and pools come again and again without events.
// What rooms are found by is worked out of them, in whatever order they came by their names.
function comparable({ state }: Harbor, atMs: number): string {
  const { deadlines, ...all } = state;
  const byName = [...state.rooms.byName].map(([name, rooms]) => [name, [...rooms].sort()] as const);
  const rest = { ...all, rooms: { ...all.rooms, byName: new Map(byName.sort(([a], [b]) => (a < b ? -1 : 1))) } };
  const due = [...deadlines.current.values()]
    .filter(({ at, kind }) => kind !== "queue-pass" && kind !== "plan-pool" && at > atMs)
    .map(({ kind, subject, at }) => `${at} ${kind} ${subject}`)
    .sort();
  return JSON.stringify({ ...rest, due }, (_key, value: unknown) =>
    value instanceof Map || value instanceof Set ? [...value] : value,
  );
}
