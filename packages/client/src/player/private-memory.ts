import type { OwnUpdate, PrivateEntryView, Welcome } from "@yellow-harbor/protocol";
import type { Emitter } from "./emitter.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import { applyPrivate, NOTHING_PRIVATE, type PrivateHeld, privateIn } from "./private-held.ts";

/** The private entries of one's room that one may see. */
export class PrivateMemory {
  readonly #events: Emitter<PlayerEvents>;
  #held = NOTHING_PRIVATE;

  constructor(events: Emitter<PlayerEvents>) {
    this.#events = events;
  }

  get all(): readonly PrivateEntryView[] {
    return this.#held.entries;
  }

  /** With `continues` there is no room in it, and the one that is held still counts. */
  welcomed({ room, privateEntries = [] }: Welcome): void {
    this.#hold({ room: room?.id ?? this.#held.room, entries: privateEntries });
  }

  hear(update: OwnUpdate): void {
    this.#hold(applyPrivate(this.#held, update));
  }

  /** One is in this room by now, or in none. */
  inRoom(room: string | undefined): void {
    this.#hold(privateIn(this.#held, room));
  }

  #hold(held: PrivateHeld): void {
    const hasNone = held.entries.length === 0 && this.#held.entries.length === 0;
    const isSame = held.entries === this.#held.entries || hasNone;
    this.#held = held;
    if (!isSame) this.#events.emit("privateEntries", held.entries);
  }
}
