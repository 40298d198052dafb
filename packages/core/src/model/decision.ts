import { type Problem, type ProblemCode, type ProblemExtras, problem } from "@yellow-harbor/protocol";
import type { Due } from "./due.ts";
import type { Effect } from "./effect.ts";
import type { HarborEvent } from "./event.ts";
import type { HarborRules } from "./rules.ts";
import type { Random } from "./stamp.ts";
import type { HarborState, PoolsPart, QueuesPart, RoomsPart } from "./state.ts";

/** All that a decision may look at: the part of the state that is its capability's, and what that sees of the others. */
export interface DecisionContext<Part = HarborState> {
  readonly state: Part;
  readonly rules: HarborRules;
  readonly at: number;
  readonly random: Random;
}

export type RoomsContext = DecisionContext<RoomsPart>;
export type QueuesContext = DecisionContext<QueuesPart>;
export type PoolsContext = DecisionContext<PoolsPart>;

/** A refusal changes nothing. */
export interface Refusal {
  readonly refused: Problem;
}

export interface Accepted<Reply = unknown> {
  readonly events: readonly HarborEvent[];
  readonly effects: readonly Effect[];
  /** Built once all events, those of reactions included, are applied. */
  readonly reply: ReplyOf<Reply> | undefined;
  /** A deadline that comes again although nothing has happened: looking again is no event. */
  readonly again?: Due;
}

export type Decision<Reply = unknown> = Refusal | Accepted<Reply>;

export type ReplyOf<Reply = unknown> = (state: HarborState) => Reply;

export function accept(events: readonly HarborEvent[], more?: { effects?: readonly Effect[] }): Accepted<undefined>;
export function accept<Reply>(
  events: readonly HarborEvent[],
  more: { reply: ReplyOf<Reply>; effects?: readonly Effect[] },
): Accepted<Reply>;
export function accept(
  events: readonly HarborEvent[],
  { reply, effects = [] }: { reply?: ReplyOf; effects?: readonly Effect[] } = {},
): Accepted {
  return { events, effects, reply };
}

export function refuse(code: ProblemCode, detail: string, extras?: ProblemExtras): Refusal {
  return { refused: problem(code, detail, extras) };
}

/** A decision that there is nothing to do, for commands that come late by nature (deadlines, reports of the world). */
export const nothingToDo: Accepted<undefined> = { events: [], effects: [], reply: undefined };

export function assertNever(value: never): never {
  throw new Error(`a case is missing for ${JSON.stringify(value)}`);
}
