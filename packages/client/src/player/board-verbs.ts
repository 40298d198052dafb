import type {
  OnLeave,
  PlayerArgsTyped,
  PlayerAsk,
  PlayerReply,
  PrivateEntryView,
  PrivateReaders,
  RoomView,
} from "@yellow-harbor/protocol";
import type { PrivateMemory } from "./private-memory.ts";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** What members share while they are together: all of them on the board, or some of them alone. Everything rejects with {@link ProblemError}. */
export class BoardVerbs {
  readonly #ask: Ask;
  readonly #room: () => RoomView | undefined;
  readonly #memory: PrivateMemory;

  constructor(ask: Ask, room: () => RoomView | undefined, memory: PrivateMemory) {
    this.#ask = ask;
    this.#room = room;
    this.#memory = memory;
  }

  /** Sets an entry of the room's board; with `ifRevision` only if it is still that one, 0 for one that must be new. */
  set(
    key: string,
    value: unknown,
    how: { onLeave?: OnLeave; ifRevision?: number } = {},
  ): Promise<PlayerReply<"board.set">> {
    return this.#ask("board.set", { key, value, ...how });
  }

  remove(key: string, how: { ifRevision?: number } = {}): Promise<PlayerReply<"board.remove">> {
    return this.#ask("board.remove", { key, ...how });
  }

  /** The value of an entry of the room's board as it is now, or undefined. */
  value(key: string): unknown {
    const board = this.#room()?.board;
    return board && Object.hasOwn(board, key) ? board[key]?.box[0] : undefined;
  }

  /** The private entries of the room that one may see, one's own among them; `privateEntries` events tell of changes. */
  get private(): readonly PrivateEntryView[] {
    return this.#memory.all;
  }

  /** Sets an entry that only one member, or those on one side, see beside oneself. */
  setPrivate(key: string, value: unknown, to: PrivateReaders): Promise<PlayerReply<"private.set">> {
    return this.#ask("private.set", { key, value, to });
  }

  removePrivate(key: string): Promise<PlayerReply<"private.remove">> {
    return this.#ask("private.remove", { key });
  }
}
