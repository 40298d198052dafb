/**
 * A record keyed by ids. Without a prototype the engine keeps it as a dictionary from the start; with one it would make a
 * shape of its own for each set of ids, and those shapes outlive the record by far.
 */
export function recordOf<V>(entries: Iterable<readonly [string, V]>): Record<string, V> {
  const record = Object.create(null) as Record<string, V>;
  for (const [key, value] of entries) record[key] = value;
  return record;
}

/** The record of one entry. */
export function only<V>(key: string, value: V): Record<string, V> {
  const record = Object.create(null) as Record<string, V>;
  record[key] = value;
  return record;
}
