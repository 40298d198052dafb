import { type PlayerClient, ProblemError } from "@yellow-harbor/client";

/** What came of a line: JSON for scripts, sentences for people. */
export interface Done {
  readonly result: unknown;
  readonly text: readonly string[];
  readonly ends?: boolean;
}

export interface Action {
  readonly usage: string;
  readonly about: string;
  readonly run: (player: PlayerClient, words: readonly string[]) => Promise<Done>;
}

export type Actions = Readonly<Record<string, Action>>;

/** Members are named by their place, which is short and does not change by itself. */
export function memberAt(player: PlayerClient, place: string | undefined, usage: string): string {
  const member = Object.values(player.state.room?.members ?? {}).find((one) => String(one.place) === place);
  if (member === undefined) throw wrong(`${usage}, with a place that who shows`);
  return member.id;
}

export const wrong = (usage: string) => ProblemError.of("usage", `Usage: ${usage}.`);

/** An action whose update says all there is to say. */
export const quiet = async (result: Promise<unknown>): Promise<Done> => ({ result: await result, text: [] });

export const WAIT_SECONDS = 60;

/** JSON as typed; anything else is text, which is what most people mean. */
export function jsonOf(typed: string): unknown {
  try {
    return JSON.parse(typed);
  } catch {
    return typed;
  }
}
