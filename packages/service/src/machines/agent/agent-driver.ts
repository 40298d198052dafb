import type { InstanceId } from "@yellow-harbor/protocol";
import {
  type DriverEvents,
  type LaunchRequest,
  type MachineDriver,
  type Output,
  OutputAwayError,
  type OutputStream,
} from "../driver.ts";
import { type FromAgent, READ_MAX, type ToAgent } from "./frames.ts";

const ANSWER_MS = 5_000;

type Send = (text: string) => void;
type Answer = Extract<FromAgent, { ask: number }>;

/** Runs instances on another computer, through its agent. While that is away nothing is started, and nothing is lost. */
export class AgentDriver implements MachineDriver {
  readonly #events: DriverEvents;
  readonly #serviceUrl: () => string;
  /** Whether an instance is one of this machine: an agent has no say about others. */
  readonly #isOwn: (instance: InstanceId) => boolean;
  readonly #running = new Set<InstanceId>();
  /** Signals that could not be given, by instance: said again when the agent is back. */
  readonly #owed = new Map<InstanceId, "terminate" | "kill">();
  readonly #asked = new Map<number, (answer: Answer | undefined) => void>();
  #asks = 0;
  #send: Send | undefined;
  #close: ((code: number) => void) | undefined;

  constructor(parts: { events: DriverEvents; serviceUrl: () => string; isOwn: (instance: InstanceId) => boolean }) {
    this.#events = parts.events;
    this.#serviceUrl = parts.serviceUrl;
    this.#isOwn = parts.isOwn;
  }

  connect(send: Send, close: (code: number) => void): void {
    this.#send = send;
    this.#close = close;
    for (const [instance, signal] of this.#owed) this.#tell({ do: "signal", instance, signal });
    this.#owed.clear();
  }

  /** How to end the connection there was before, if any. */
  replaced(): ((code: number) => void) | undefined {
    return this.#close;
  }

  /** Whether that was the connection in use. */
  disconnect(send: Send): boolean {
    if (this.#send !== send) return false;
    this.#send = undefined;
    this.#close = undefined;
    for (const answer of this.#asked.values()) answer(undefined);
    this.#asked.clear();
    return true;
  }

  take(frame: FromAgent): void {
    if ("ask" in frame) {
      this.#asked.get(frame.ask)?.(frame);
      this.#asked.delete(frame.ask);
      return;
    }
    if (frame.say === "usage" || frame.say === "notice") return;
    const { instance } = frame;
    if (!this.#isOwn(instance)) return;
    switch (frame.say) {
      case "spawned":
        this.#running.add(instance);
        return this.#events.spawned(instance, frame.pid);
      case "start-failed":
        return this.#events.startFailed(instance, { detail: frame.detail, portTaken: frame.portTaken });
      case "over-limit":
        return this.#events.overLimit(instance, frame.detail);
      case "exited":
        this.#running.delete(instance);
        return this.#events.exited(instance, { exitCode: frame.exitCode, signal: frame.signal });
    }
  }

  async start(request: LaunchRequest): Promise<void> {
    this.#tell({ do: "start", request, serviceUrl: this.#serviceUrl() });
  }

  async adopt(instance: InstanceId, pid: number): Promise<void> {
    this.#tell({ do: "adopt", instance, pid });
  }

  signal(instance: InstanceId, signal: "terminate" | "kill"): void {
    if (!this.#tell({ do: "signal", instance, signal })) this.#owed.set(instance, signal);
  }

  output(instance: InstanceId, stream: OutputStream): Output {
    return {
      size: async (part) => {
        const answer = await this.#ask((ask) => ({ do: "size", ask, instance, stream, part }));
        if (answer?.say !== "size") throw new OutputAwayError();
        return answer.bytes;
      },
      read: async (part, from, max) => {
        const answer = await this.#ask((ask) => ({
          do: "read",
          ask,
          instance,
          stream,
          part,
          from,
          max: Math.min(max, READ_MAX),
        }));
        if (answer?.say !== "read") throw new OutputAwayError();
        return Buffer.from(answer.base64, "base64");
      },
    };
  }

  running(): readonly InstanceId[] {
    return [...this.#running];
  }

  close(): void {
    this.#close?.(1001);
  }

  #tell(frame: ToAgent): boolean {
    this.#send?.(JSON.stringify(frame));
    return this.#send !== undefined;
  }

  /** Undefined when the agent is away, or does not answer in time. */
  #ask(frameOf: (ask: number) => ToAgent): Promise<Answer | undefined> {
    this.#asks += 1;
    const ask = this.#asks;
    return new Promise((resolve) => {
      const late = setTimeout(() => {
        this.#asked.delete(ask);
        resolve(undefined);
      }, ANSWER_MS);
      const done = (answer: Answer | undefined) => {
        clearTimeout(late);
        resolve(answer);
      };
      this.#asked.set(ask, done);
      if (!this.#tell(frameOf(ask))) {
        this.#asked.delete(ask);
        done(undefined);
      }
    });
  }
}
