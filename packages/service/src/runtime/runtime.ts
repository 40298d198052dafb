import {
  type AppliedEvent,
  type Command,
  type Harbor,
  type HarborRules,
  instanceView,
  type Outcome,
  type QueueChange,
  type ReplyTo,
  type Stamp,
  writeEvent,
} from "@yellow-harbor/core";
import { type Problem, problem } from "@yellow-harbor/protocol";
import type { EventLog } from "../journal/event-log.ts";
import type { Found } from "../journal/kept-harbor.ts";
import { type Batch, BatchWriter, newBatch, rejectionOf, type WriterParts } from "./batch-writer.ts";
import { steadyMs } from "./clock.ts";
import { failureText, problemOf, type RuntimeFailure } from "./failure.ts";
import { callOff, type Deliveries, deliver, followed, type OutboxEntry, type Settled } from "./outbox.ts";
import type { Scheduler } from "./scheduler.ts";

export interface RuntimeParts extends WriterParts {
  readonly harbor: Harbor;
  readonly eventLog: EventLog;
  readonly lastSeq: number;
  readonly stamp: () => Stamp;
  readonly scheduler: Scheduler;
}

const LONGEST_SLEEP_MS = 1_000;

/**
 * Runs a harbor: decides commands as they come, makes their events durable in batches, and only then lets anything be
 * said or done. A batch is whatever came while the last one was being written.
 */
export class HarborRuntime {
  readonly #parts: RuntimeParts;
  #harbor: Harbor;
  #writer: BatchWriter;
  #formerCommits = 0;
  #outlets: Deliveries | undefined;
  #watchers = 0;
  #batch: Batch = newBatch();
  #seq: number;
  #underWay = 0;
  #isWriting = false;
  #isFlushDue = false;
  #callOff: (() => void) | undefined;
  #timerAt = Number.POSITIVE_INFINITY;
  #failure: RuntimeFailure | undefined;
  #isStopped = false;
  #idle: (() => void)[] = [];

  constructor(parts: RuntimeParts) {
    this.#parts = parts;
    this.#harbor = parts.harbor;
    this.#seq = parts.lastSeq;
    this.#writer = new BatchWriter(parts, parts.eventLog, parts.lastSeq);
  }

  /** Connects those who speak. Before this nothing may be submitted. */
  connect(outlets: Deliveries): void {
    this.#outlets = outlets;
  }

  get rules(): HarborRules {
    return this.#harbor.rules;
  }

  /** Other rules from now on, those at the paths; which queues that changes, once it is recorded. */
  async changeRules(
    rules: HarborRules,
    paths: readonly string[],
  ): Promise<QueueChange | { readonly refused: Problem }> {
    const queues = this.#harbor.changeRules(rules);
    const settled = await this.ask({ do: "harbor.change-rules", paths, queues });
    return "refused" in settled ? settled : queues;
  }

  /** Nothing is launched ahead any more: the service is about to end, and its instances with it. */
  suspendPlans(): void {
    this.#harbor.suspendPlans();
  }

  /** Why nothing is taken any more, once the journal or the core has failed. */
  get failure(): RuntimeFailure | undefined {
    return this.#failure;
  }

  /** Events that a start would replay. */
  get behindSnapshot(): number {
    return this.#writer.behindSnapshot;
  }

  get journalStatus(): { seq: number; commits: number; waiting: number } {
    const { durableSeq, commits } = this.#writer;
    return { seq: durableSeq, commits: this.#formerCommits + commits, waiting: this.#seq - durableSeq };
  }

  /** Commands and reads that are not answered yet. */
  get underWay(): number {
    return this.#underWay;
  }

  /** Decides a command now; `done` hears how it ended once that is durable and `prepare` has done its part. */
  submit<C extends Command>(
    command: C,
    done: (settled: Settled<ReplyTo<C["do"]>>) => void,
    prepare?: (settled: Settled<ReplyTo<C["do"]>>) => Promise<void>,
  ): void {
    if (this.#failure) return done({ refused: problemOf(this.#failure) });
    if (this.#isStopped) return done({ refused: problem("shutting-down", "The service is stopping; try again soon.") });
    const outcome = this.#guard(command.do, () => {
      const decided = this.#harbor.execute(command, this.#parts.stamp(), this.#hear);
      this.#take(decided);
      return decided;
    });
    if (this.#failure) return done({ refused: problemOf(this.#failure) });
    if (outcome === undefined) return;
    let settled: Settled<ReplyTo<C["do"]>> = outcome.refused ? { refused: outcome.refused } : { reply: outcome.reply };
    this.#underWay += 1;
    this.#batch.outbox.push({
      out: "settle",
      prepare: prepare && (() => prepare(settled)),
      refuse: (refused) => {
        settled = { refused };
      },
      done: () => {
        this.#underWay -= 1;
        done(settled);
      },
    });
    this.#scheduleFlush();
  }

  /** {@link submit} as a promise. */
  ask<C extends Command>(command: C): Promise<Settled<ReplyTo<C["do"]>>> {
    return new Promise((resolve) => this.submit(command, resolve));
  }

  /** Reads the state now; `done` gets the answer once everything it may show is durable. */
  read<T>(read: (harbor: Harbor, atMs: number) => T, done: (answer: T) => void, fail: (error: Error) => void): void {
    if (this.#failure) return fail(this.#failure.error);
    const answer = read(this.#harbor, this.#parts.stamp().at);
    this.#underWay += 1;
    const settle = (tell: () => void) => {
      this.#underWay -= 1;
      tell();
    };
    this.#batch.outbox.push({
      out: "run",
      run: () => settle(() => done(answer)),
      fail: (error) => settle(() => fail(error)),
    });
    this.#scheduleFlush();
  }

  /** The harbor as it was decided, durable or not. Only for what is no state itself, such as relayed messages. */
  get decided(): Harbor {
    return this.#harbor;
  }

  /** {@link read} as a promise. */
  query<T>(read: (harbor: Harbor, atMs: number) => T): Promise<T> {
    return new Promise((resolve, reject) => this.read(read, resolve, reject));
  }

  /**
   * Adds a watcher: `start` gets the state as it stands at one place of the outbox, and everything that is handed to
   * `outlets.happened` after that is newer than the state.
   */
  watch(start: (state: ReturnType<Harbor["view"]>, atMs: number) => void): () => void {
    this.#watchers += 1;
    const state = this.#harbor.view();
    const { at } = this.#parts.stamp();
    this.#batch.outbox.push({ out: "run", run: () => start(state, at), fail: () => undefined });
    this.#scheduleFlush();
    let isOver = false;
    return () => {
      if (!isOver) this.#watchers -= 1;
      isOver = true;
    };
  }

  /** Goes on from what is durable, after the log was away. The first commands are those of a start. */
  takeAgain(harbor: Harbor, { eventLog, lastSeq }: Pick<Found, "eventLog" | "lastSeq">): void {
    if (this.#failure?.what !== "away") throw new Error("only a harbor whose log was away is taken again");
    this.#harbor = harbor;
    this.#formerCommits += this.#writer.commits;
    this.#writer = new BatchWriter(this.#parts, eventLog, lastSeq);
    this.#seq = lastSeq;
    this.#timerAt = Number.POSITIVE_INFINITY;
    this.#failure = undefined;
  }

  /** Starts the clock: what fell due meanwhile fires now, once. */
  start(): void {
    this.#setTimer();
  }

  /** Does something to what is kept while no snapshot is being made of it. */
  betweenSnapshots<T>(work: () => Promise<T>): Promise<T> {
    return this.#writer.betweenSnapshots(work);
  }

  /** Resolves when everything submitted so far is durable and spoken, and no snapshot is due; stops the clock. */
  async stop(): Promise<void> {
    this.#callOff?.();
    await new Promise<void>((resolve) => {
      this.#idle.push(resolve);
      this.#scheduleFlush();
    });
    // What still comes, as from a process that ends meanwhile, is seen to at the next start.
    this.#isStopped = true;
    this.#callOff?.();
    if (!this.#failure) await this.#writer.settle();
  }

  /** Hears of each event while the state is as it was right after it. */
  #hear = (applied: AppliedEvent, at: number): void => {
    const { event, pushes } = applied;
    const { rows, events, instances, webhookEvents, outbox } = this.#batch;
    this.#seq += 1;
    events.push(event);
    const { teller } = this.#parts;
    if (teller) webhookEvents.push(...teller.tell(event, { seq: this.#seq, atMs: at }, this.#harbor.state));
    rows.push({ seq: this.#seq, atMs: at, ...writeEvent(event) });
    if ("instance" in event && event.kind.startsWith("instance.")) {
      const instance = this.#harbor.state.pools.instances.get(event.instance);
      if (instance) instances.set(instance.id, instanceView(this.#harbor.state, instance));
    }
    for (const push of pushes) {
      outbox.push(push.scope === "pass" ? { out: "pass", push, pass: undefined } : { out: "push", push });
    }
    if (this.#outlets) outbox.push(...followed(this.#outlets, this.#harbor.state, event));
    if (this.#watchers > 0) {
      const happened = {
        atMs: at,
        kind: event.kind,
        text: this.#harbor.describe(applied, at),
        patch: this.#harbor.operatorPatch(applied),
      };
      outbox.push({ out: "happened", happened });
    }
  };

  #take({ effects }: Outcome): void {
    for (const effect of effects) this.#batch.outbox.push({ out: "effect", effect });
    this.#setTimer();
  }

  #scheduleFlush(): void {
    if (this.#isFlushDue || this.#isWriting) return;
    this.#isFlushDue = true;
    // All that this turn of the event loop still brings goes into the same batch.
    this.#parts.scheduler.soon(() => {
      this.#isFlushDue = false;
      void this.#flush();
    });
  }

  async #flush(): Promise<void> {
    this.#isWriting = true;
    while (this.#batch.outbox.length > 0 || this.#batch.rows.length > 0) {
      const batch = this.#batch;
      this.#batch = newBatch();
      try {
        await this.#writer.write(batch);
      } catch (error) {
        this.#fail({ what: rejectionOf(error), error: error as Error }, batch.outbox);
        break;
      }
      this.#speak(batch.outbox);
    }
    this.#isWriting = false;
    for (const resolve of this.#idle.splice(0)) resolve();
  }

  #speak(outbox: readonly OutboxEntry[]): void {
    const outlets = this.#outlets;
    if (outlets === undefined) throw new Error("the runtime has no outlets");
    for (const entry of outbox) {
      try {
        deliver(outlets, entry);
      } catch (error) {
        // One receiver's fault must not keep the others from hearing.
        this.#parts.log.error({ err: error, entry: entry.out }, "an outbox entry could not be carried out");
      }
    }
    outlets.flush();
  }

  /** Anything thrown in the core may have left half of a change behind: nothing may go on from there. */
  #guard<T>(what: string, work: () => T): T | undefined {
    try {
      return work();
    } catch (error) {
      this.#fail({ what: "core", error: new Error(`${what}: ${(error as Error).message}`, { cause: error }) }, []);
      return undefined;
    }
  }

  /** The state in memory is not what is durable, and stays so: nothing of it may be shown any more. */
  #fail(failure: RuntimeFailure, unspoken: readonly OutboxEntry[]): void {
    this.#failure ??= failure;
    this.#callOff?.();
    this.#parts.log.fatal({ err: failure.error }, `${failureText[failure.what]}; no commands are taken`);
    const entries = [...unspoken, ...this.#batch.outbox];
    this.#batch = newBatch();
    for (const entry of entries) callOff(entry, failure);
    this.#outlets?.flush();
    this.#outlets?.failed(this.#failure);
  }

  #setTimer(): void {
    const next = this.#harbor.nextDeadlineAt() ?? Number.POSITIVE_INFINITY;
    if (next === this.#timerAt || this.#failure || this.#isStopped) return;
    this.#callOff?.();
    this.#timerAt = next;
    if (next === Number.POSITIVE_INFINITY) return;
    // The harbor's clock may go faster than the timer's, to come near the wall clock again; waking early does no harm.
    const delay = Math.min(Math.max(0, next - this.#parts.stamp().at), LONGEST_SLEEP_MS);
    this.#callOff = this.#parts.scheduler.later(() => this.#advance(), delay);
  }

  #advance(): void {
    this.#timerAt = Number.POSITIVE_INFINITY;
    const stamp = this.#parts.stamp;
    this.#guard("a deadline", () => {
      for (let due = this.#nextDue(stamp()); due; due = this.#nextDue(stamp())) this.#take(due);
    });
    if (this.#failure) return;
    this.#setTimer();
    this.#scheduleFlush();
  }

  #nextDue(stamp: Stamp): Outcome | undefined {
    const beganMs = steadyMs();
    const due = this.#harbor.advance(stamp, this.#hear);
    if (due) this.#parts.meter.deadline(steadyMs() - beganMs);
    return due;
  }
}
