import type { ConfigName, InstanceId, RoomId } from "@yellow-harbor/protocol";
import type { Command } from "./command.ts";
import type { Decision, DecisionContext } from "./decision.ts";
import type { DueKind } from "./due.ts";
import type { Effect } from "./effect.ts";
import type { HarborEvent } from "./event.ts";
import type { Delivery } from "./push.ts";
import type { HarborState, KeptState } from "./state.ts";

/**
 * What a harbor can do, one thing at a time: players, rooms, queues and so on. Each folder beside this one exports one, and
 * the register in `harbor/` lists them all.
 */
export interface Capability<C extends Command = Command, E extends HarborEvent = HarborEvent> {
  /** What the names of its commands and events begin with, before the dot. */
  readonly names: readonly string[];
  /** Its part of the state of an empty harbor. */
  newState?(): Partial<KeptState>;
  /** Changes nothing. */
  decide(context: DecisionContext, command: C): Decision;
  /** The only thing that changes its part of the state by its own events, live and on recovery alike. */
  apply(state: HarborState, event: E, at: number): void;
  /** What players are told about an event that was just applied. */
  deliveries?(state: HarborState, event: E): readonly Delivery[];
  /** An event in a sentence, from the state after it; undefined when it says nothing that another event does not. */
  describe?(state: HarborState, event: E, at: number): string | undefined;
  /** What of the views that people hold an event changes. */
  touches?(state: HarborState, event: E): Touched;
  /** What is done when a deadline falls due. */
  readonly due?: { readonly [K in DueKind]?: (subject: string) => C };
  /** What has to be done again after a restart, since nobody wrote down whether it was. */
  recover?(state: HarborState): readonly Effect[];
  /** What must never be in its part of a state and is, each in a sentence. */
  invariants?(state: HarborState): readonly string[];
  /** What waits for a time, and so must have a deadline. */
  waits?(state: HarborState): readonly (readonly [kind: DueKind, subject: string])[];
}

/** A capability, with what else of it others may call: what it shows, explains, and changes along with their events. */
export type Exported<C extends Command, E extends HarborEvent> = Capability<C, E> & Readonly<Record<string, unknown>>;

export interface Touched {
  readonly room?: RoomId | undefined;
  readonly lobby?: ConfigName | undefined;
  readonly queues?: readonly ConfigName[] | undefined;
  readonly instance?: InstanceId | undefined;
}
