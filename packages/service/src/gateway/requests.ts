import { type PlayerId, problem, type RelayBytes } from "@yellow-harbor/protocol";
import type { Config } from "../config/schema.ts";
import type { Audit } from "../keys/audit.ts";
import type { Tokens } from "../keys/tokens.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { Tracing } from "../tracing/tracing.ts";
import { whyBusy } from "./admission.ts";
import type { Allowances } from "./allowance.ts";
import { type Connection, EARLY_MAX } from "./connection.ts";
import type { CheckedRequest } from "./decode.ts";
import {
  type Answer,
  dispatch,
  isEphemeral,
  type JournaledRequest,
  needsVerifying,
  type VerifiedRequest,
} from "./dispatch.ts";
import type { EphemeralMessages } from "./ephemeral.ts";
import type { GatewayMeter } from "./meter.ts";
import { deedOf } from "./moderation.ts";
import type { Passwords } from "./passwords.ts";
import type { RefusedLately } from "./refused-lately.ts";
import { saysPassword, withKeptPassword } from "./room-passwords.ts";
import type { TextDesk } from "./text-desk.ts";
import { commandOf } from "./verify.ts";

const takenOver = problem("taken-over", "The player is here by another connection; this one is closed.");

export interface RequestParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  readonly allowances: Allowances;
  readonly desk: EphemeralMessages;
  readonly texts: TextDesk;
  readonly passwords: Passwords;
  /** The port that the service itself listens on. */
  readonly ownPort: () => number;
  readonly localWorlds: Config["travel"]["localWorlds"];
  readonly audit: Pick<Audit, "add">;
  readonly meter: Pick<GatewayMeter, "answered">;
  readonly refused: RefusedLately;
  readonly tracing: Pick<Tracing, "request"> | undefined;
  /** Sends what was answered out of turn. */
  readonly flushSoon: () => void;
}

/** What becomes of a request that was decoded: weighed, looked at where it names something in the world, answered. */
export class Requests {
  readonly #parts: RequestParts;

  constructor(parts: RequestParts) {
    this.#parts = parts;
  }

  /** Carries a request out when its player, and the address, may have done what it costs. */
  weigh(connection: Connection, request: CheckedRequest, { bytes, now }: { bytes: number; now: number }): void {
    const { player, quota } = connection;
    const tooMuch =
      player === undefined
        ? undefined
        : (whyBusy(request.ask, this.#parts.runtime.underWay) ??
          this.#parts.allowances.refusal(player, { ask: request.ask, bytes, quota }, now));
    if (tooMuch === undefined || player === undefined) return this.carryOut(connection, request, now);
    this.#parts.refused.note(player, request.ask, tooMuch, Date.now());
    connection.sayProblem(request.id, tooMuch);
  }

  /** Passes a message in a binary frame on. It has no reply: what cannot be passed on is refused. */
  relayBytes(connection: Connection, message: RelayBytes, now: number): void {
    const { player, quota } = connection;
    if (player === undefined) return connection.refuse(problem("hello-expected", "Say hello first."));
    if (this.#isFormer(connection, player)) return connection.close(takenOver);
    const { allowances, desk, meter } = this.#parts;
    const bytes = message.body.length;
    const refused =
      allowances.refusal(player, { ask: "room.relay", bytes, quota }, now) ?? desk.relayBytes(player, message);
    if (refused) connection.sayRefused(refused);
    meter.answered("room.relay", steadyMs() - now);
  }

  /** `beganMs` is when it came, on the steady clock. */
  carryOut(connection: Connection, request: CheckedRequest, beganMs: number): void {
    const { player } = connection;
    if (player === undefined) {
      if (connection.isGreeting && connection.keepEarly(request)) return;
      const detail = connection.isGreeting
        ? `More than ${EARLY_MAX} requests before the welcome; wait for it.`
        : "Say hello first.";
      return connection.refuse(problem("hello-expected", detail), request.id);
    }
    if (this.#isFormer(connection, player)) return connection.close(takenOver);
    const isGuess = request.ask === "room.join" && "code" in request.args;
    if (isGuess) {
      const refused = this.#parts.allowances.codeRefusal(player, connection.quota, steadyMs());
      if (refused) {
        this.#parts.refused.note(player, request.ask, refused, Date.now());
        return connection.sayProblem(request.id, refused);
      }
    }
    const trace = this.#parts.tracing?.request(request.ask, player);
    const answer = (given: Answer) => {
      const { id, ask } = request;
      trace?.answered("refused" in given ? given.refused.code : undefined);
      this.#parts.meter.answered(ask, steadyMs() - beganMs);
      if (isGuess && "refused" in given && given.refused.code === "room-code-unknown") {
        this.#parts.allowances.missedCode(player, connection.quota, steadyMs());
      }
      if ("refused" in given) {
        this.#parts.refused.note(player, ask, given.refused, Date.now());
        return connection.sayProblem(id, given.refused);
      }
      connection.say({ frame: "reply", id, reply: given.reply });
      if (ask === "player.leave") connection.closeNormally();
    };
    if (isEphemeral(request)) this.#parts.desk.carryOut(connection, player, request, answer);
    else if (needsVerifying(request)) this.#examine(connection, player, request, answer);
    else this.#named(connection, player, request, answer);
    trace?.decided();
  }

  /** Whether the harbor has the player by another connection, or by none: then this one speaks for nobody. */
  #isFormer({ number }: Connection, player: PlayerId): boolean {
    const known = this.#parts.runtime.decided.state.players.byId.get(player);
    return known !== undefined && known.connection !== number;
  }

  /** A name for a room is looked at first, where that is configured. */
  #named(connection: Connection, player: PlayerId, request: JournaledRequest, answer: (given: Answer) => void): void {
    const { ask } = request;
    const isNaming = ask === "room.open" || ask === "room.change" || ask === "room.join-or-open";
    if (!isNaming || request.args.name === undefined) return this.#secret(connection, player, request, answer);
    const by = this.#parts.runtime.decided.state.players.byId.get(player);
    const then = (name: string) => {
      if (this.#isFormer(connection, player)) return connection.close(takenOver);
      // The arguments stay those of their request; of them the name alone is another.
      const named = { ...request, args: { ...request.args, name } } as JournaledRequest;
      this.#secret(connection, player, named, answer);
    };
    this.#parts.texts.pass(connection, { kind: "room-name", text: request.args.name, by }, then, (refused) =>
      answer({ refused }),
    );
  }

  /** A password goes on as it is kept, never as it was typed. */
  #secret(connection: Connection, player: PlayerId, request: JournaledRequest, answer: (given: Answer) => void): void {
    if (!saysPassword(request)) return this.#dispatch(connection, player, request, answer);
    const { allowances, passwords, runtime, flushSoon } = this.#parts;
    const refused = allowances.passwordRefusal(player, connection.quota, steadyMs());
    if (refused) return answer({ refused });
    connection.looking = connection.looking.then(async () => {
      const kept = await withKeptPassword(request, {
        state: runtime.decided.state,
        passwords,
        quota: connection.quota,
      });
      if (this.#isFormer(connection, player)) return connection.close(takenOver);
      if (!("refused" in kept)) return this.#dispatch(connection, player, kept, answer);
      answer(kept);
      flushSoon();
    });
  }

  /** What a moderator does in a room of others is written down before it is answered. */
  #dispatch(
    connection: Connection,
    player: PlayerId,
    request: JournaledRequest,
    answer: (given: Answer) => void,
  ): void {
    const { runtime, audit, flushSoon } = this.#parts;
    const deed = deedOf(runtime.decided.state, player, request, connection.from);
    if (deed === undefined) return dispatch(request, player, runtime, answer);
    dispatch(request, player, runtime, (given) => {
      void audit.add({ ...deed, result: "refused" in given ? given.refused.code : "done" }).then(() => {
        answer(given);
        flushSoon();
      });
    });
  }

  /** What names addresses or shows passes is looked at before the harbor hears of it: one at a time for each connection. */
  #examine(connection: Connection, player: PlayerId, request: VerifiedRequest, answer: (given: Answer) => void): void {
    const { runtime, tokens, ownPort, localWorlds } = this.#parts;
    const look = async () => {
      const looked = await commandOf(request, player, {
        tokens,
        ownPort: ownPort(),
        localWorlds,
        from: connection.from,
        isAsked: (run) => runtime.decided.state.travels.byRun.get(run)?.hosting?.player === player,
      });
      if (this.#isFormer(connection, player)) return connection.close(takenOver);
      if (!("refused" in looked)) return runtime.submit(looked, answer);
      answer(looked);
      this.#parts.flushSoon();
    };
    connection.looking = connection.looking.then(look);
  }
}
