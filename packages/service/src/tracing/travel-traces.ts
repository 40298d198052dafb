import { ROOT_CONTEXT, type Span, SpanStatusCode, type Tracer, trace } from "@opentelemetry/api";
import type { EventKind, HarborEvent, HarborState } from "@yellow-harbor/core";
import type { RunId } from "@yellow-harbor/protocol";

interface TravelTrace {
  readonly root: Span;
  /** What it waits for now. */
  step: Span;
}

interface Seen {
  readonly atMs: number;
  readonly state: HarborState;
  readonly traces: TravelTraces;
}

type Note<K extends EventKind> = (event: Extract<HarborEvent, { kind: K }>, seen: Seen) => void;

/** From the start of a room until all have boarded, or it came to nothing. */
const notes: { readonly [K in EventKind]?: Note<K> } = {
  "travel.called": ({ run, room }, { traces, atMs }) => traces.begin(run, room, atMs),
  "travel.boarding": ({ run }, { traces, atMs }) => traces.next(run, "board", atMs),
  "travel.retried": ({ run }, { traces, atMs }) => traces.next(run, "prepare", atMs),
  "travel.completed": ({ run }, { traces, atMs }) => traces.end(run, atMs, undefined),
  "travel.failed": ({ run, code }, { traces, atMs }) => traces.end(run, atMs, code),
};

/** Travels that are traced at once; more are not begun. */
const UNDER_WAY_MAX = 10_000;

/** Traces a share of the travels, from events and at their times. One that began before this process is not traced. */
export class TravelTraces {
  readonly #tracer: Tracer;
  readonly #isChosen: () => boolean;
  readonly #underWay = new Map<RunId, TravelTrace>();

  constructor(tracer: Tracer, isChosen: () => boolean) {
    this.#tracer = tracer;
    this.#isChosen = isChosen;
  }

  take(event: HarborEvent, atMs: number, state: HarborState): void {
    const note = notes[event.kind] as Note<EventKind> | undefined;
    note?.(event, { atMs, state, traces: this });
  }

  begin(run: RunId, room: string, atMs: number): void {
    if (!this.#isChosen() || this.#underWay.size >= UNDER_WAY_MAX) return;
    const attributes = { "yh.run": run, "yh.room": room };
    const root = this.#tracer.startSpan("travel", { startTime: atMs, attributes }, ROOT_CONTEXT);
    this.#underWay.set(run, { root, step: this.#step(root, "prepare", atMs) });
  }

  next(run: RunId, name: string, atMs: number): void {
    const travel = this.#underWay.get(run);
    if (travel === undefined) return;
    travel.step.end(atMs);
    travel.step = this.#step(travel.root, name, atMs);
  }

  end(run: RunId, atMs: number, code: string | undefined): void {
    const travel = this.#underWay.get(run);
    if (travel === undefined) return;
    this.#underWay.delete(run);
    travel.step.end(atMs);
    if (code !== undefined) {
      travel.root.setAttribute("yh.problem", code);
      travel.root.setStatus({ code: SpanStatusCode.ERROR });
    }
    travel.root.end(atMs);
  }

  #step(root: Span, name: string, atMs: number): Span {
    return this.#tracer.startSpan(name, { startTime: atMs }, trace.setSpan(ROOT_CONTEXT, root));
  }
}
