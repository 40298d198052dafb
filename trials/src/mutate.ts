import { randomFrom as coreChance, type Random } from "@yellow-harbor/core";

/** Numbers out of a seed, a lane of them for each of those who send at once. */
export const randomFrom = (seed: number, lane = 0): Random => coreChance([seed, lane, 17, 19]);

/** Whether something with this share happens. */
export const happens = (chance: Random, share: number): boolean => chance.below(1_000) < share * 1_000;

export const oneOf = <T>(chance: Random, list: readonly T[]): T => list[chance.below(list.length)] as T;

/** Values that find the edges of whatever reads them. */
const edges: readonly unknown[] = [
  ...[null, true, false, 0, -1, 1, 0.5, 1e308, -0, 2 ** 31, 2 ** 53, Number.MAX_SAFE_INTEGER],
  ...[
    "",
    " ",
    "0",
    "null",
    "__proto__",
    "constructor",
    "toString",
    "r_000000000000",
    "p_000000000000",
    "CCCCC",
    "../..",
  ],
  ...["\u0000", "\u202e", "\ud800", "a".repeat(300), "\u{1f600}".repeat(40), "%00", "' OR 1=1 --"],
  ...[[], {}, [[]], [null], { __proto__: null }, { a: { b: { c: {} } } }, Array(200).fill(0)],
];

/** Bytes flipped, cut out, doubled or put in somewhere. */
export function mutateText(chance: Random, text: string): string {
  const at = chance.below(text.length + 1);
  const length = 1 + chance.below(8);
  switch (chance.below(5)) {
    case 0:
      return text.slice(0, at) + text.slice(at + length);
    case 1:
      return text.slice(0, at) + text.slice(at, at + length).repeat(2) + text.slice(at + length);
    case 2:
      return text.slice(0, at) + String.fromCharCode(chance.below(0x300)) + text.slice(at + 1);
    case 3:
      return (
        text.slice(0, at) +
        oneOf(chance, ['"', "{", "}", "[", "]", ",", ":", "\n", "\\u0000", "1e999"]) +
        text.slice(at)
      );
    default:
      return text.slice(0, at);
  }
}

/** A JSON value with one of its parts replaced, removed, or put where it does not belong. */
export function mutateJson(chance: Random, value: unknown): unknown {
  const copy = structuredClone(value);
  const parts = partsOf(copy);
  const part = parts[chance.below(parts.length)];
  if (part === undefined) return oneOf(chance, edges);
  const { holder, key } = part;
  switch (chance.below(4)) {
    case 0:
      delete holder[key];
      break;
    case 1:
      holder[`${key}x`] = holder[key];
      break;
    case 2:
      holder[key] = holder[oneOf(chance, Object.keys(holder))];
      break;
    default:
      holder[key] = oneOf(chance, edges);
  }
  return copy;
}

interface Part {
  readonly holder: Record<string, unknown>;
  readonly key: string;
}

function partsOf(value: unknown): Part[] {
  if (typeof value !== "object" || value === null) return [];
  const holder = value as Record<string, unknown>;
  return Object.keys(holder).flatMap((key) => [{ holder, key }, ...partsOf(holder[key])]);
}
