/** A part of a queue's rules that is tried with several values. */
export interface Vary {
  /** Keys and places in lists, from the queue down. */
  readonly path: readonly string[];
  readonly values: readonly string[];
}

export interface Change {
  readonly path: readonly string[];
  readonly value: string;
}

/** The values of all parts in all ways to put them together, the first part changing slowest. */
export const combinations = (all: readonly Vary[]): readonly (readonly Change[])[] =>
  all.reduce<readonly (readonly Change[])[]>(
    (sets, { path, values }) => sets.flatMap((set) => values.map((value) => [...set, { path, value }])),
    [[]],
  );

/** Reads `PATH=VALUE,VALUE`, such as `closeness.0.gap=x0.5,x1,x2`; undefined when it is none. */
export function readVary(text: string): Vary | undefined {
  const at = text.indexOf("=");
  const path = text.slice(0, at).split(".");
  const values = splitValues(text.slice(at + 1));
  if (at < 1 || path.some((key) => key === "") || values.some((value) => value === "")) return undefined;
  return { path, values };
}

/** At commas that are in no brackets. */
function splitValues(text: string): string[] {
  const values = [""];
  let depth = 0;
  for (const sign of text) {
    if (sign === "[" || sign === "{") depth += 1;
    if (sign === "]" || sign === "}") depth -= 1;
    if (sign === "," && depth === 0) values.push("");
    else values[values.length - 1] += sign;
  }
  return values.map((value) => value.trim());
}

type Changed = { readonly value: unknown } | { readonly missing: string } | { readonly wrong: string };

/**
 * A copy of rules with one part changed: `x2` multiplies a number or the values of a curve, `t2` the seconds of a curve,
 * and anything else is the value itself, in JSON or as a word. `missing` names a part that is not there.
 */
export function withChange(rules: unknown, { path, value }: Change): Changed {
  const copy: unknown = structuredClone(rules);
  let holder: unknown = copy;
  for (const key of path.slice(0, -1)) holder = partOf(holder, key);
  const last = path.at(-1) ?? "";
  const before = partOf(holder, last);
  if (before === undefined || !isHolder(holder)) return { missing: path.join(".") };
  const after = changed(before, value);
  if (after === undefined)
    return { wrong: `${path.join(".")} is ${JSON.stringify(before)}, which ${value} cannot change` };
  holder[last] = after;
  return { value: copy };
}

const isHolder = (value: unknown): value is Record<string, unknown> => typeof value === "object" && value !== null;
const partOf = (holder: unknown, key: string): unknown =>
  isHolder(holder) && Object.hasOwn(holder, key) ? holder[key] : undefined;

const isCurve = (value: unknown): value is readonly [number, number][] =>
  Array.isArray(value) && value.length > 0 && value.every((point) => Array.isArray(point) && point.length === 2);

function changed(before: unknown, value: string): unknown {
  const by = /^([xt])(\d+(?:\.\d+)?)$/.exec(value);
  if (!by) return literalOf(value);
  const factor = Number(by[2]);
  if (isCurve(before)) {
    return before.map(([seconds, height]) =>
      by[1] === "x" ? [seconds, rounded(height * factor)] : [rounded(seconds * factor), height],
    );
  }
  return by[1] === "x" && typeof before === "number" ? rounded(before * factor) : undefined;
}

function literalOf(value: string): unknown {
  try {
    return JSON.parse(value);
  } catch {
    return value;
  }
}

const rounded = (value: number) => Math.round(value * 1_000) / 1_000;
