import { readFileSync } from "node:fs";
import { isMap, isPair, isScalar, LineCounter, parseDocument } from "yaml";
import type { Fault } from "./fault.ts";

/** A fault of a configuration file, with its place. Lines and columns count from 1. */
export interface ConfigFault {
  readonly line: number;
  readonly column: number;
  /** Such as `pools.sluice.ports`; empty for the file as a whole. */
  readonly path: string;
  readonly message: string;
  /** Variable or flag that the value is from, when it is not from the file; line and column are 0 then. */
  readonly from?: string;
}

/** A value that takes the place of one in the file. */
export interface Override {
  readonly path: readonly string[];
  readonly value: unknown;
  /** What it is from, such as YH_LISTEN_PORT or --port. */
  readonly from: string;
}

/** Where a value of a file is. */
export interface Place {
  readonly line: number;
  readonly column: number;
}

/** What the values of a file come to, or what is wrong with them. */
export type Checked<T> = { readonly value: T } | { readonly faults: readonly Fault[] };
export type Parsed<T> =
  | { readonly ok: true; readonly value: T; readonly placeOf: (path: readonly string[]) => Place | undefined }
  | { readonly ok: false; readonly faults: readonly ConfigFault[] };

type Check<T> = (values: unknown) => Checked<T>;

export function readYaml<T>(path: string, check: Check<T>, overrides: readonly Override[] = []): Parsed<T> {
  let text: string;
  try {
    text = readFileSync(path, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const message = code === "ENOENT" ? "is not there" : code === "EISDIR" ? "is a folder" : `cannot be read (${code})`;
    return { ok: false, faults: [{ line: 0, column: 0, path: "", message }] };
  }
  return parseYaml(text, check, overrides);
}

export function parseYaml<T>(text: string, check: Check<T>, overrides: readonly Override[] = []): Parsed<T> {
  const lines = new LineCounter();
  // An alias that stands for itself many times over could grow without bound; ten is plenty for a hand-written file.
  const document = parseDocument(text, { lineCounter: lines, uniqueKeys: true });
  const place = (offset: number) => ({ line: lines.linePos(offset).line, column: lines.linePos(offset).col });
  if (document.errors.length > 0) {
    const faults = document.errors.map(({ pos, message }) => ({
      ...place(pos[0]),
      path: "",
      message: message.split("\n")[0] ?? message,
    }));
    return { ok: false, faults };
  }
  let values: unknown;
  try {
    values = document.toJS({ maxAliasCount: 10 });
  } catch (error) {
    return { ok: false, faults: [{ line: 1, column: 1, path: "", message: String((error as Error).message) }] };
  }
  for (const { path, value } of overrides) values = withValue(values, path, value);
  const checked = check(values);
  if ("value" in checked) {
    const placeOf = (path: readonly string[]) =>
      document.getIn(path, true) === undefined ? undefined : place(offsetOf(document, path.slice(0, -1), path.at(-1)));
    return { ok: true, value: checked.value, placeOf };
  }
  // An unknown key is often the missing one, misspelt: it is named first.
  const faults = checked.faults.toSorted((a, b) => Number(b.key !== undefined) - Number(a.key !== undefined));
  const placed = faults.map(({ path, message, key }): ConfigFault => {
    const whole = [...path, ...(key === undefined ? [] : [key])];
    const override = overrides.find((one) => one.path.every((step, n) => step === String(whole[n])));
    const where = override === undefined ? place(offsetOf(document, path, key)) : { line: 0, column: 0 };
    return { ...where, path: whole.join("."), message, ...(override && { from: override.from }) };
  });
  return { ok: false, faults: placed.sort((a, b) => a.line - b.line || a.column - b.column) };
}

/** The values with another at a path; what leads to it is made where it is missing. */
function withValue(values: unknown, path: readonly string[], value: unknown): unknown {
  const [first, ...rest] = path;
  if (first === undefined) return value;
  // What is no map cannot have the value; the check of the whole says what was expected there.
  const own = typeof values === "object" && values !== null && !Array.isArray(values) ? values : {};
  return { ...own, [first]: withValue((own as Record<string, unknown>)[first], rest, value) };
}

/** Where in the text a path stands: the key itself when one is named, else the value, else the nearest thing around it. */
function offsetOf(
  document: ReturnType<typeof parseDocument>,
  path: readonly PropertyKey[],
  key?: string | undefined,
): number {
  for (let depth = path.length; depth >= 0; depth--) {
    const node: unknown = depth === 0 ? document.contents : document.getIn(path.slice(0, depth), true);
    if (depth === path.length && key !== undefined && isMap(node)) {
      const pair = node.items.find((item) => isPair(item) && isScalar(item.key) && item.key.value === key);
      if (isScalar(pair?.key) && pair.key.range) return pair.key.range[0];
    }
    const range = (node as { range?: readonly number[] | null } | null | undefined)?.range;
    if (range?.[0] !== undefined) return range[0];
  }
  return 0;
}
