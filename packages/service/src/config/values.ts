import { isDeepStrictEqual } from "node:util";

/** A value of a configuration that has no keys of its own: a text, a number, a list. */
export interface ConfigLeaf {
  readonly path: readonly string[];
  readonly value: unknown;
}

/** A value that two configurations differ in; undefined where one has none. */
export interface Difference {
  readonly path: readonly string[];
  readonly before: unknown;
  readonly after: unknown;
}

const isMap = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** All values, in the order of the configuration. A map without keys is one. */
export function leavesOf(value: unknown, path: readonly string[] = []): ConfigLeaf[] {
  if (value === undefined) return [];
  const entries = isMap(value) ? Object.entries(value) : [];
  if (entries.length === 0) return [{ path, value }];
  return entries.flatMap(([key, child]) => leavesOf(child, [...path, key]));
}

/** What differs, each at the deepest place; what only one of them has as a whole. */
export function differencesOf(before: unknown, after: unknown, path: readonly string[] = []): Difference[] {
  if (isDeepStrictEqual(before, after)) return [];
  if (!isMap(before) || !isMap(after)) return [{ path, before, after }];
  const keys = new Set([...Object.keys(before), ...Object.keys(after)]);
  return [...keys].flatMap((key) => differencesOf(before[key], after[key], [...path, key]));
}

/** A value with another one, or none, at a path. */
export function withValueAt(value: unknown, [first, ...rest]: readonly string[], replaced: unknown): unknown {
  if (first === undefined) return replaced;
  const { [first]: own, ...others } = isMap(value) ? value : {};
  const next = withValueAt(own, rest, replaced);
  return next === undefined ? others : { ...(isMap(value) ? value : {}), [first]: next };
}
