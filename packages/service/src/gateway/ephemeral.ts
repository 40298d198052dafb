import type { Harbor } from "@yellow-harbor/core";
import { type PlayerArgs, type PlayerId, problem } from "@yellow-harbor/protocol";
import { steadyMs } from "../runtime/clock.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { Allowances } from "./allowance.ts";
import { chat } from "./broadcast.ts";
import type { Connection } from "./connection.ts";
import { DirectoryHub, directoryState } from "./directory.ts";
import type { Answer, EphemeralRequest } from "./dispatch.ts";
import { relay } from "./relay.ts";

/** Carries out what touches no state and so takes no way through the journal. */
export class EphemeralMessages {
  readonly directory = new DirectoryHub();
  readonly #allowances: Allowances;
  readonly #runtime: HarborRuntime;
  readonly #connectionOf: (player: PlayerId) => Connection | undefined;
  /** Requests to follow a directory that are not answered yet. */
  #following = 0;

  constructor(
    runtime: HarborRuntime,
    connectionOf: (player: PlayerId) => Connection | undefined,
    allowances: Allowances,
  ) {
    this.#allowances = allowances;
    this.#runtime = runtime;
    this.#connectionOf = connectionOf;
  }

  /** Whether somebody follows a directory: otherwise nobody need work out what changes in it. */
  get isFollowed(): boolean {
    return this.#following > 0 || this.directory.isFollowed;
  }

  carryOut(connection: Connection, player: PlayerId, request: EphemeralRequest, answer: (given: Answer) => void): void {
    const allowance = this.#allowances.of(player, steadyMs());
    const way = { harbor: this.#runtime.decided, connectionOf: this.#connectionOf, allowance };
    switch (request.ask) {
      case "room.relay":
        return answer(relay(request.args, player, way));
      case "lobby.chat":
        return answer(chat(request.args, player, way));
      case "lobby.follow":
        return this.#follow(connection, player, request.args, answer);
      case "lobby.unfollow":
        this.directory.unfollow(connection);
        return answer({ reply: {} });
    }
  }

  #follow(
    connection: Connection,
    player: PlayerId,
    args: PlayerArgs<"lobby.follow">,
    answer: (given: Answer) => void,
  ): void {
    // Changes are worked out from now on, so that none is missed between this moment and the answer.
    this.#following += 1;
    const lobby = this.#runtime.decided.state.players.byId.get(player)?.lobby ?? "";
    this.#runtime.read(
      (harbor: Harbor) => directoryState(harbor, lobby, args.filter),
      (state) => {
        this.#following -= 1;
        if (!connection.isOpen) return;
        const followed = this.directory.follow(connection, lobby, args, state);
        answer("refused" in followed ? followed : { reply: followed });
      },
      () => {
        this.#following -= 1;
        answer({ refused: problem("journal-unavailable", "The service cannot answer now; try again later.") });
      },
    );
  }
}
