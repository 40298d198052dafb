import type { Phase } from "./views.ts";

const irregular: Readonly<Record<string, string>> = { party: "parties", match: "matches", entry: "entries" };

/** A number with its noun: `1 ticket`, `2 tickets`. A noun of several words is counted by its last: `1 other ticket`. */
export const counted = (count: number, noun: string): string => `${count} ${nounFor(count, noun)}`;

/** The noun alone, as it goes with a number. */
export function nounFor(count: number, noun: string): string {
  if (count === 1) return noun;
  const last = noun.slice(noun.lastIndexOf(" ") + 1);
  return `${noun.slice(0, noun.length - last.length)}${irregular[last] ?? `${last}s`}`;
}

/** What a room does in a phase, after its name: `Room K7RDM shows results`. */
export const phaseWords: Readonly<Record<Phase, string>> = {
  gathering: "is gathering",
  counting: "is counting down",
  travelling: "is travelling",
  playing: "is playing",
  results: "shows results",
  closed: "is closed",
};
