import { closest } from "fastest-levenshtein";
import type { Fault } from "./fault.ts";

/** A fault where a name stands for nothing that is there, with the nearest that is. */
export function unknownName(what: string, name: string, known: Record<string, unknown>, path: PropertyKey[]): Fault[] {
  if (Object.hasOwn(known, name)) return [];
  const names = Object.keys(known);
  const hint = names.length === 0 ? "none is defined" : `did you mean ${closest(name, names)}?`;
  return [{ path, message: `there is no ${what} ${name}; ${hint}` }];
}
