/** What can fall due. The subject is the id of the player, run or instance that it belongs to. */
export type DeadlineKind =
  | "player-grace"
  | "lobby-tally"
  | "room-countdown"
  | "room-results"
  | "room-play"
  | "room-host"
  | "room-baton"
  | "room-empty"
  | "travel-step"
  | "queue-pass"
  | "ticket-end"
  | "match-confirm"
  | "filling-end"
  | "plan-pool"
  | "instance-boot"
  | "instance-stop"
  | "instance-kill"
  | "instance-drain"
  | "instance-berths"
  | "instance-forget";

export interface Deadline {
  readonly kind: DeadlineKind;
  readonly subject: string;
  readonly at: number;
}

/**
 * Deadlines are state: one binary heap for the whole harbor, ordered by time and then by the order in which they were
 * set. A cleared or moved deadline leaves its old heap entry behind, which is skipped when it comes up.
 */
export interface Deadlines {
  /** `kind:subject` to the live entry. */
  readonly current: Map<string, HeapEntry>;
  readonly heap: HeapEntry[];
  count: number;
}
type HeapEntry = Deadline & { readonly number: number };

export function newDeadlines(): Deadlines {
  return { current: new Map(), heap: [], count: 0 };
}

export function setDeadline(deadlines: Deadlines, kind: DeadlineKind, subject: string, at: number): void {
  const entry: HeapEntry = { kind, subject, at, number: deadlines.count++ };
  deadlines.current.set(keyOf(kind, subject), entry);
  push(deadlines.heap, entry);
}

export function hasDeadline(deadlines: Deadlines, kind: DeadlineKind, subject: string): boolean {
  return deadlines.current.has(keyOf(kind, subject));
}

export function clearDeadline(deadlines: Deadlines, kind: DeadlineKind, subject: string): void {
  deadlines.current.delete(keyOf(kind, subject));
  // Without this a long-lived service would keep one stale entry for each cleared deadline until its time has come.
  if (deadlines.heap.length > 64 && deadlines.heap.length > 2 * deadlines.current.size) compact(deadlines);
}

/** The next deadline, or undefined. Drops stale entries on the way. */
export function nextDeadline(deadlines: Deadlines): Deadline | undefined {
  for (let top = deadlines.heap[0]; top !== undefined; top = deadlines.heap[0]) {
    if (deadlines.current.get(keyOf(top.kind, top.subject))?.number === top.number) return top;
    pop(deadlines.heap);
  }
  return undefined;
}

/** Takes the next deadline that is due at `at`, or undefined. It will not come up again. */
export function takeDue(deadlines: Deadlines, at: number): Deadline | undefined {
  const next = nextDeadline(deadlines);
  if (next === undefined || next.at > at) return undefined;
  pop(deadlines.heap);
  deadlines.current.delete(keyOf(next.kind, next.subject));
  return next;
}

const keyOf = (kind: DeadlineKind, subject: string) => `${kind}:${subject}`;

const isBefore = (a: HeapEntry, b: HeapEntry) => a.at < b.at || (a.at === b.at && a.number < b.number);

function compact(deadlines: Deadlines): void {
  const live = [...deadlines.current.values()].sort((a, b) => a.at - b.at || a.number - b.number);
  deadlines.heap.splice(0, deadlines.heap.length, ...live);
}

function push(heap: HeapEntry[], entry: HeapEntry): void {
  let at = heap.length;
  heap.push(entry);
  while (at > 0) {
    const parent = (at - 1) >> 1;
    const above = heap[parent] as HeapEntry;
    if (!isBefore(entry, above)) break;
    heap[at] = above;
    at = parent;
  }
  heap[at] = entry;
}

function pop(heap: HeapEntry[]): void {
  const last = heap.pop();
  if (last === undefined || heap.length === 0) return;
  let at = 0;
  for (;;) {
    let child = 2 * at + 1;
    if (child >= heap.length) break;
    if (child + 1 < heap.length && isBefore(heap[child + 1] as HeapEntry, heap[child] as HeapEntry)) child++;
    if (!isBefore(heap[child] as HeapEntry, last)) break;
    heap[at] = heap[child] as HeapEntry;
    at = child;
  }
  heap[at] = last;
}
