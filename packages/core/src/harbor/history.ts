import type { RoomView } from "@yellow-harbor/protocol";
import type { HarborEvent } from "../model/event.ts";
import type { HarborState } from "../model/state.ts";
import { rooms } from "../rooms/index.ts";
import { apply } from "./apply.ts";
import { describe } from "./describe.ts";
import { invariantViolations } from "./invariants.ts";
import { newHarborState } from "./new-state.ts";
import { readSnapshot, writeSnapshot } from "./snapshot.ts";

/** A harbor as it was, made from what was recorded and without any rules: to be looked at, not to be gone on with. */
export class History {
  readonly #state: HarborState;

  private constructor(state: HarborState) {
    this.#state = state;
  }

  /** Before the first event, or as a snapshot has it; undefined when that is of another version. */
  static from(snapshot?: string): History | undefined {
    const state = snapshot === undefined ? newHarborState() : readSnapshot(snapshot);
    return state && new History(state);
  }

  /** Goes one event on. */
  replay(event: HarborEvent, at: number): void {
    apply(this.#state, event, at);
  }

  /** {@link replay}, and the event in a sentence when it says something that others do not. */
  describe(event: HarborEvent, at: number): string | undefined {
    apply(this.#state, event, at);
    return describe(this.#state, event, at);
  }

  snapshot(): string {
    return writeSnapshot(this.#state);
  }

  room(id: string): RoomView | undefined {
    const room = this.#state.rooms.byId.get(id);
    return room && rooms.views.room(this.#state, room);
  }

  /** The room in which a player is. */
  roomOf(player: string): string | undefined {
    return this.#state.players.byId.get(player)?.room ?? undefined;
  }

  get counts(): { readonly players: number; readonly rooms: number; readonly instances: number } {
    const { players, rooms, pools } = this.#state;
    const instances = [...pools.instances.values()].filter(({ gone }) => !gone).length;
    return { players: players.byId.size, rooms: rooms.byId.size, instances };
  }

  /** What must never be in a state, each in a sentence. */
  faults(): string[] {
    return invariantViolations(this.#state);
  }
}
