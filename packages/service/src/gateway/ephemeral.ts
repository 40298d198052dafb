import { friendsOf, type Harbor, relationsOf } from "@yellow-harbor/core";
import { type PlayerArgs, type PlayerId, type Problem, problem, type RelayBytes } from "@yellow-harbor/protocol";
import { steadyMs } from "../runtime/clock.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { Allowances } from "./allowance.ts";
import { chat, message, whyNotChat, whyNotMessage } from "./broadcast.ts";
import type { Connection } from "./connection.ts";
import { DirectoryHub, directoryState } from "./directory.ts";
import type { Answer, EphemeralRequest } from "./dispatch.ts";
import { FriendsHub } from "./friends.ts";
import { relay, relayBytes } from "./relay.ts";
import { SaidLately } from "./said-lately.ts";
import { signal } from "./signal.ts";
import type { TextDesk } from "./text-desk.ts";

const unanswered = problem("journal-unavailable", "The service cannot answer now; try again later.");

/** Carries out what touches no state and so takes no way through the journal. */
export class EphemeralMessages {
  readonly directory = new DirectoryHub();
  readonly friends = new FriendsHub();
  readonly #said = new SaidLately();
  readonly #texts: TextDesk;
  readonly #allowances: Allowances;
  readonly #runtime: HarborRuntime;
  readonly #connectionOf: (player: PlayerId) => Connection | undefined;
  /** Requests to follow a directory that are not answered yet. */
  #following = 0;
  #followingFriends = 0;

  constructor(
    runtime: HarborRuntime,
    connectionOf: (player: PlayerId) => Connection | undefined,
    { allowances, texts }: { readonly allowances: Allowances; readonly texts: TextDesk },
  ) {
    this.#texts = texts;
    this.#allowances = allowances;
    this.#runtime = runtime;
    this.#connectionOf = connectionOf;
  }

  /** Whether somebody follows a directory: otherwise nobody need work out what changes in it. */
  get isFollowed(): boolean {
    return this.#following > 0 || this.directory.isFollowed;
  }

  /** Likewise somebody its friends. */
  get areFriendsFollowed(): boolean {
    return this.#followingFriends > 0 || this.friends.isFollowed;
  }

  carryOut(connection: Connection, player: PlayerId, request: EphemeralRequest, answer: (given: Answer) => void): void {
    const allowance = this.#allowances.of(player, steadyMs());
    const way = {
      harbor: this.#runtime.decided,
      connectionOf: this.#connectionOf,
      allowance,
      said: this.#said,
    };
    const by = this.#runtime.decided.state.players.byId.get(player);
    const refuse = (refused: Problem) => answer({ refused });
    switch (request.ask) {
      case "room.relay":
        return answer(relay(request.args, player, way));
      case "room.signal":
        return answer(signal(request.args, player, way));
      case "lobby.chat":
        return this.#say(whyNotChat(player, way), answer, () => {
          const { text } = request.args;
          this.#texts.pass(
            connection,
            { kind: "chat", text, by },
            (text) => answer(chat({ text }, player, way)),
            refuse,
          );
        });
      case "player.message":
        return this.#say(whyNotMessage(player, request.args, way), answer, () => {
          const { text, to } = request.args;
          const then = (text: string) => answer(message({ to, text }, player, way));
          this.#texts.pass(connection, { kind: "message", text, by, to }, then, refuse);
        });
      case "player.report": {
        const tooFast = this.#allowances.reportRefusal(player, steadyMs());
        if (tooFast) return refuse(tooFast);
        const { args } = request;
        const heard = this.#said.heardBy(player, args.player, Date.now());
        return this.#runtime.submit({ do: "player.report", player, args, heard }, answer);
      }
      case "lobby.follow":
        return this.#follow(connection, player, request.args, answer);
      case "lobby.unfollow":
        this.directory.unfollow(connection);
        return answer({ reply: {} });
      case "friends.follow":
        return this.#followFriends(connection, player, answer);
      case "friends.unfollow":
        this.friends.unfollow(player);
        return answer({ reply: {} });
    }
  }

  /** Passes a binary message on, or says why not. */
  relayBytes(player: PlayerId, message: RelayBytes): Problem | undefined {
    const allowance = this.#allowances.of(player, steadyMs());
    const given = relayBytes(message, player, {
      harbor: this.#runtime.decided,
      connectionOf: this.#connectionOf,
      allowance,
      said: this.#said,
    });
    return "refused" in given ? given.refused : undefined;
  }

  #say(against: Problem | undefined, answer: (given: Answer) => void, say: () => void): void {
    if (against) answer({ refused: against });
    else say();
  }

  #followFriends(connection: Connection, player: PlayerId, answer: (given: Answer) => void): void {
    this.#followingFriends += 1;
    this.#runtime.read(
      ({ state }) => ({ accounts: relationsOf(state, player).friends, friends: friendsOf(state, player) }),
      (found) => {
        this.#followingFriends -= 1;
        if (!connection.isOpen) return;
        this.friends.follow(connection, player, found);
        answer({ reply: { friends: found.friends } });
      },
      () => {
        this.#followingFriends -= 1;
        answer({ refused: unanswered });
      },
    );
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
        answer({ refused: unanswered });
      },
    );
  }
}
