import { type Hello, type Problem, problem } from "@yellow-harbor/protocol";
import type { WaitingLineConfig } from "../config/waiting-line.ts";
import { steadyMs } from "../runtime/clock.ts";
import { whyBusy } from "./admission.ts";
import type { Connection } from "./connection.ts";
import { enter, type Greeted, type GreetingCommand, type GreetingParts, greetingOf } from "./greeting.ts";
import { WaitingLine } from "./waiting-line.ts";

export interface ArrivalParts extends Omit<GreetingParts, "connection" | "from"> {
  readonly waitingLine: WaitingLineConfig;
  /** The harbor's time. */
  readonly now: () => number;
  /** A hello was decided: welcome it, or say why not. */
  readonly greeted: (connection: Connection, greeted: Greeted, have: Hello["have"]) => void;
  readonly flushSoon: () => void;
}

/** After a restart all are away for a moment, and none of them is to make way for that. */
const HOLD_MS = 15_000;

/** Those who say hello: looked at, let in, or put in line while the harbor is full. */
export class Arrivals {
  readonly #parts: ArrivalParts;
  readonly line: WaitingLine;
  /** Until then nobody takes the place of one who was here before the restart: its client is on its way. On the steady clock. */
  readonly #heldUntilMs: number;

  constructor(parts: ArrivalParts) {
    this.#parts = parts;
    const holdMs = parts.runtime.decided.state.players.byId.size === 0 ? 0 : Math.min(HOLD_MS, parts.players.graceMs);
    this.#heldUntilMs = steadyMs() + holdMs;
    const { tokens, now, flushSoon, waitingLine: config } = parts;
    this.line = new WaitingLine({
      config,
      tokens,
      now,
      free: () => this.#free,
      mayMakeWay: () => !this.#isHolding,
      flushSoon,
    });
  }

  get #free(): number {
    const { rules, decided } = this.#parts.runtime;
    return rules.players.limit - decided.state.players.byId.size;
  }

  get #isHolding(): boolean {
    return steadyMs() < this.#heldUntilMs;
  }

  hello(connection: Connection, hello: Hello): void {
    if (connection.player || connection.isGreeting) {
      return connection.refuse(problem("hello-twice", "A hello was said on this connection already; send requests."));
    }
    const busy = whyBusy(hello.resume === undefined ? "hello" : "resume", this.#parts.runtime.underWay);
    if (busy) return connection.close(busy);
    // Coming back brings nobody new.
    if (hello.resume === undefined && !connection.quota.guests.take(steadyMs())) {
      const detail = "This address has brought as many new players as it may for now; wait a minute.";
      return connection.close(problem("too-many-connections", detail));
    }
    connection.isGreeting = true;
    const { number, from } = connection;
    const parts: GreetingParts = { ...this.#parts, connection: number, from };
    void greetingOf(hello, parts).then((command) => {
      if ("refused" in command) return this.#parts.greeted(connection, command, hello.have);
      // Whoever comes now does not go before those who wait, or who were here.
      const isBehind = this.line.isBusy || (this.#isHolding && this.#free <= 0);
      if (isBehind && this.#takesPlace(command)) return this.#wait(connection, hello, command, parts);
      enter(command, parts, (greeted) => {
        if (isFull(greeted)) this.#wait(connection, hello, command, parts);
        else this.#parts.greeted(connection, greeted, hello.have);
      });
    });
  }

  /** Whether it is somebody new: who is known here has its place. */
  #takesPlace(command: GreetingCommand): boolean {
    if (command.do !== "player.connect") return false;
    const { byAccount } = this.#parts.runtime.decided.state.players;
    return command.identity === undefined || !byAccount.has(command.identity.account);
  }

  #wait(connection: Connection, { waits, waited, have }: Hello, command: GreetingCommand, parts: GreetingParts): void {
    const { greeted, flushSoon } = this.#parts;
    if (!connection.isOpen) return;
    const isIn =
      waits === true &&
      this.line.join(connection, waited, (ended) => {
        enter(command, parts, (given) => {
          ended(isFull(given));
          if (!isFull(given)) greeted(connection, given, have);
        });
      });
    if (isIn) return flushSoon();
    greeted(connection, { refused: this.#full(waits) }, have);
  }

  #full(waits: boolean | undefined): Problem {
    const { runtime, waitingLine } = this.#parts;
    const taken = `All ${runtime.rules.players.limit} player places are taken`;
    if (waitingLine.max === 0) return problem("harbor-full", `${taken}; try again in a minute.`);
    return waits
      ? problem(
          "harbor-full",
          `${taken}, and ${this.line.size} wait in line, which is the most; try again in a minute.`,
        )
      : problem("harbor-full", `${taken}; try again in a minute, or wait in line with waits: true in the hello.`);
  }
}

const isFull = (greeted: Greeted): boolean => "refused" in greeted && greeted.refused.code === "harbor-full";
