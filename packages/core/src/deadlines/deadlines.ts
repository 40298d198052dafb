/** Something that falls due. */
export interface Deadline<Kind extends string = string> {
  readonly kind: Kind;
  /** Id of the player, run or instance that it belongs to. */
  readonly subject: string;
  readonly at: number;
}

/**
 * Deadlines are state: one binary heap for the whole harbor, ordered by time and then by the order in which they were
 * set. A cleared or moved deadline leaves its old heap entry behind, which is skipped when it comes up.
 */
export interface Deadlines<Kind extends string = string> {
  /** `kind:subject` to the live entry. */
  readonly current: Map<string, HeapEntry<Kind>>;
  readonly heap: HeapEntry<Kind>[];
  count: number;
}
type HeapEntry<Kind extends string = string> = Deadline<Kind> & { readonly number: number };

export function newDeadlines<Kind extends string>(): Deadlines<Kind> {
  return { current: new Map(), heap: [], count: 0 };
}

export function setDeadline<Kind extends string>(
  deadlines: Deadlines<Kind>,
  kind: NoInfer<Kind>,
  subject: string,
  at: number,
): void {
  const entry: HeapEntry<Kind> = { kind, subject, at, number: deadlines.count++ };
  deadlines.current.set(keyOf(kind, subject), entry);
  push(deadlines.heap, entry);
}

export function hasDeadline<Kind extends string>(
  deadlines: Deadlines<Kind>,
  kind: NoInfer<Kind>,
  subject: string,
): boolean {
  return deadlines.current.has(keyOf(kind, subject));
}

export function clearDeadline<Kind extends string>(
  deadlines: Deadlines<Kind>,
  kind: NoInfer<Kind>,
  subject: string,
): void {
  deadlines.current.delete(keyOf(kind, subject));
  // Without this a long-lived service would keep one stale entry for each cleared deadline until its time has come.
  if (deadlines.heap.length > 64 && deadlines.heap.length > 2 * deadlines.current.size) compact(deadlines);
}

/** The next deadline, or undefined. Drops stale entries on the way. */
export function nextDeadline<Kind extends string>(deadlines: Deadlines<Kind>): Deadline<Kind> | undefined {
  for (let top = deadlines.heap[0]; top !== undefined; top = deadlines.heap[0]) {
    if (deadlines.current.get(keyOf(top.kind, top.subject))?.number === top.number) return top;
    pop(deadlines.heap);
  }
  return undefined;
}

/** Takes the next deadline that is due at `at`, or undefined. It will not come up again. */
export function takeDue<Kind extends string>(deadlines: Deadlines<Kind>, at: number): Deadline<Kind> | undefined {
  const next = nextDeadline(deadlines);
  if (next === undefined || next.at > at) return undefined;
  pop(deadlines.heap);
  deadlines.current.delete(keyOf(next.kind, next.subject));
  return next;
}

const keyOf = (kind: string, subject: string) => `${kind}:${subject}`;

const isBefore = (a: HeapEntry, b: HeapEntry) => a.at < b.at || (a.at === b.at && a.number < b.number);

function compact<Kind extends string>(deadlines: Deadlines<Kind>): void {
  const live = [...deadlines.current.values()].sort((a, b) => a.at - b.at || a.number - b.number);
  deadlines.heap.splice(0, deadlines.heap.length, ...live);
}

function push<Kind extends string>(heap: HeapEntry<Kind>[], entry: HeapEntry<Kind>): void {
  let at = heap.length;
  heap.push(entry);
  while (at > 0) {
    const parent = (at - 1) >> 1;
    const above = heap[parent] as HeapEntry<Kind>;
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
