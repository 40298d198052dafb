import type { ConfigName, HarborView, Problem } from "@yellow-harbor/protocol";
import { nextDeadline, setDeadline, takeDue } from "../deadlines/index.ts";
import type { Command, QueueChange } from "../model/command.ts";
import type { Consequence } from "../model/consequence.ts";
import type { Decision, DecisionContext } from "../model/decision.ts";
import type { Effect } from "../model/effect.ts";
import type { HarborEvent } from "../model/event.ts";
import type { Push } from "../model/push.ts";
import type { ReplyTo } from "../model/replies.ts";
import type { HarborRules } from "../model/rules.ts";
import { randomFrom, type Stamp } from "../model/stamp.ts";
import type { HarborState } from "../model/state.ts";
import { apply } from "./apply.ts";
import { commandFor } from "./capabilities.ts";
import { decide } from "./decide.ts";
import { describe, pushesOf } from "./describe.ts";
import { newHarborState } from "./new-state.ts";
import { harborView, operatorPatch } from "./operator-view.ts";
import { reactTo } from "./reactions.ts";
import { readSnapshot, writeSnapshot } from "./snapshot.ts";

/** An event that was applied, with all that follows from it. */
export interface AppliedEvent {
  readonly event: HarborEvent;
  readonly pushes: readonly Push[];
}

/** What came of a command. Nothing of it may be spoken of before its events are durable. */
export type Outcome<Reply = unknown> = RefusedOutcome | AcceptedOutcome<Reply>;

interface RefusedOutcome {
  readonly refused: Problem;
  readonly appliedEvents: readonly [];
  readonly effects: readonly [];
  readonly reply?: undefined;
}

interface AcceptedOutcome<Reply> {
  readonly refused?: undefined;
  readonly appliedEvents: readonly AppliedEvent[];
  readonly effects: readonly Effect[];
  readonly reply: Reply;
}

/** Hears of each event right after it was applied, while the state is as it was then. */
export type Listener = (applied: AppliedEvent, at: number) => void;

// Consequences of consequences so many deep are a circle in the reactions, not traffic.
const CASCADE_DEEPEST = 1_000;

/** One partition: all of its state, changed in one place and on one thread. Deterministic: same commands and stamps, same events. */
export class Harbor {
  #rules: HarborRules;
  readonly #state: HarborState;

  constructor(rules: HarborRules, state: HarborState = newHarborState()) {
    this.#rules = rules;
    this.#state = state;
  }

  /** A harbor as a snapshot has it, or undefined when the snapshot is of another version. */
  static fromSnapshot(rules: HarborRules, snapshot: string): Harbor | undefined {
    const state = readSnapshot(snapshot);
    return state === undefined ? undefined : new Harbor(rules, state);
  }

  /** For reading only; changed by nothing but {@link execute}, {@link advance} and {@link replay}. */
  get state(): HarborState {
    return this.#state;
  }

  get rules(): HarborRules {
    return this.#rules;
  }

  /**
   * Other rules from now on; nothing of the state is lost, and rooms keep those of their kind that they were opened with.
   * Returns the queues that are new or have other rules, and those that are gone. What was decided by the former rules
   * stands: say `harbor.change-rules` next, so that it is recorded.
   */
  changeRules(rules: HarborRules): QueueChange {
    const before = this.#rules.queues;
    const { queues } = rules;
    const isOther = (id: ConfigName) => JSON.stringify(before.get(id)) !== JSON.stringify(queues.get(id));
    const changed = [...queues.keys()].filter(isOther);
    const gone = [...before.keys()].filter((id) => !queues.has(id));
    // The matcher's own view of a queue is made anew when its rules are another object.
    const kept = [...queues].map(([id, queue]) => [id, isOther(id) ? queue : (before.get(id) ?? queue)] as const);
    this.#rules = { ...rules, queues: new Map(kept) };
    return { changed, gone };
  }

  /** From now on nothing is launched ahead, as when the service is about to end. Nothing of it is kept. */
  suspendPlans(): void {
    const pools = new Map([...this.#rules.pools].map(([id, pool]) => [id, { ...pool, plan: null }]));
    this.#rules = { ...this.#rules, pools };
  }

  /** Decides a command and applies its events; then, one by one, the commands that follow from them. */
  execute<C extends Command>(command: C, stamp: Stamp, listener?: Listener): Outcome<ReplyTo<C["do"]>> {
    const context: DecisionContext = {
      state: this.#state,
      rules: this.#rules,
      at: stamp.at,
      random: randomFrom(stamp.entropy, this.#rules.share.number),
    };
    const first = decide(context, command);
    if ("refused" in first) return { refused: first.refused, appliedEvents: [], effects: [] };
    const appliedEvents: AppliedEvent[] = [];
    const effects: Effect[] = [];
    const consequences: { readonly next: Consequence; readonly depth: number }[] = [];
    const carryOut = (decision: Decision, depth: number) => {
      // A consequence without another way out comes to nothing when it is refused: its occasion has passed.
      if ("refused" in decision) return;
      effects.push(...decision.effects);
      if (decision.again)
        setDeadline(this.#state.deadlines, decision.again.kind, decision.again.subject, decision.again.at);
      for (const event of decision.events) {
        appliedEvents.push(this.#happen(event, stamp.at, listener));
        for (const next of reactTo(event, this.#state)) consequences.push({ next, depth });
      }
    };
    carryOut(first, 1);
    // A consequence is decided only when its turn comes, on the state as it then is.
    for (const { next, depth } of consequences) {
      if (depth > CASCADE_DEEPEST) throw new Error(`the consequences of ${command.do} do not end`);
      const decision = decide(context, next.command);
      const { otherwise } = next;
      carryOut("refused" in decision && otherwise ? decide(context, otherwise(decision.refused)) : decision, depth + 1);
    }
    // Once for all events of the command, before anybody is answered from it.
    this.#state.derived.directory.settle(this.#state.rooms);
    // The table of the command's capability was checked against what it is to be answered with.
    const reply = first.reply?.(this.#state) as ReplyTo<C["do"]>;
    return { appliedEvents, effects, reply };
  }

  /** Fires the next deadline that is due, or returns undefined. Call it until then. */
  advance(stamp: Stamp, listener?: Listener): Outcome | undefined {
    const due = takeDue(this.#state.deadlines, stamp.at);
    return due === undefined ? undefined : this.execute(commandFor(due), stamp, listener);
  }

  /** When {@link advance} has something to do next, in milliseconds since 1970, or undefined. */
  nextDeadlineAt(): number | undefined {
    return nextDeadline(this.#state.deadlines)?.at;
  }

  /** Applies an event of the journal. */
  replay(event: HarborEvent, at: number): void {
    apply(this.#state, event, at);
  }

  snapshot(): string {
    return writeSnapshot(this.#state);
  }

  view(): HarborView {
    return harborView(this.#state, this.#rules);
  }

  /** The merge patch that takes an operator's view over a applied. Only right after it, in a {@link Listener}. */
  operatorPatch({ event, pushes }: AppliedEvent): Record<string, unknown> {
    return operatorPatch(this.#state, this.#rules, event, pushes);
  }

  /** A applied in a sentence. Only right after it, in a {@link Listener}. */
  describe({ event }: AppliedEvent, at: number): string | undefined {
    return describe(this.#state, event, at);
  }

  #happen(event: HarborEvent, at: number, listener: Listener | undefined): AppliedEvent {
    apply(this.#state, event, at);
    const applied = { event, pushes: pushesOf(this.#state, event) };
    listener?.(applied, at);
    return applied;
  }
}
