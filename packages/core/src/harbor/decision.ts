import { type Problem, type ProblemCode, type ProblemExtras, problem } from "@yellow-harbor/protocol";
import type { Deadline } from "../deadlines/index.ts";
import type { Effect } from "./effect.ts";
import type { HarborEvent } from "./event.ts";
import type { HarborRules } from "./rules.ts";
import type { Chance } from "./stamp.ts";
import type { HarborState } from "./state.ts";

/** All that a decision may look at. */
export interface Moment {
  readonly state: HarborState;
  readonly rules: HarborRules;
  readonly at: number;
  readonly chance: Chance;
}

/** Either a refusal, which changes nothing, or events with what follows from them. */
export type Decision =
  | { readonly refused: Problem }
  | {
      readonly events: readonly HarborEvent[];
      readonly effects: readonly Effect[];
      /** Built once all events, those of reactions included, are applied. */
      readonly reply: ReplyOf | undefined;
      /** A deadline that comes again although nothing has happened: looking again is no event. */
      readonly again?: Deadline;
    };
export type ReplyOf = (state: HarborState) => Record<string, unknown>;

export function accept(
  events: readonly HarborEvent[],
  { reply, effects = [] }: { reply?: ReplyOf; effects?: readonly Effect[] } = {},
): Decision {
  return { events, effects, reply };
}

export function refuse(code: ProblemCode, detail: string, extras?: ProblemExtras): Decision {
  return { refused: problem(code, detail, extras) };
}

/** A decision that there is nothing to do, for commands that come late by nature (deadlines, reports of the world). */
export const nothingToDo: Decision = { events: [], effects: [], reply: undefined };

export function assertNever(value: never): never {
  throw new Error(`a case is missing for ${JSON.stringify(value)}`);
}
