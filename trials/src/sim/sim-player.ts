import { applyUpdate, type PlayerState } from "@yellow-harbor/client";
import type { Command, OwedPass } from "@yellow-harbor/core";
import type { LobbyView, PlayerAsk, Problem, RoomView, TicketView, Update } from "@yellow-harbor/protocol";
import { Fault } from "./fault.ts";
import type { Shadow } from "./shadow.ts";

/** One connection of a player, with what is under way on it in both directions. */
export interface Link {
  readonly number: number;
  readonly up: Ask[];
  /** Frames as text, in the order in which they were said. */
  readonly down: string[];
  /** The player whose connection the service holds this for, once it has welcomed it. */
  player: string | undefined;
}

/** What players ask. */
export type Asking = Extract<Command, { do: PlayerAsk | "room.mark-silent" | "player.measure" }>;

export interface Ask {
  readonly id: number;
  readonly command: Asking;
}

/** What the service says to a player. */
export type Said =
  | {
      readonly say: "state";
      readonly player: string;
      readonly lobby?: LobbyView;
      readonly room?: RoomView;
      readonly pass?: OwedPass;
      readonly ticket?: TicketView;
    }
  | { readonly say: "refused-hello"; readonly problem: Problem }
  | { readonly say: "reply"; readonly id: number; readonly reply?: unknown; readonly problem?: Problem }
  | { readonly say: "update"; readonly update: Update }
  | { readonly say: "pass"; readonly pass: OwedPass }
  | { readonly say: "close"; readonly code: string };

interface Written {
  readonly room: string;
  readonly count: number;
}

/** A player: holds a state as the SDK does, and remembers what it was promised. */
export class SimPlayer {
  readonly name: string;
  id: string | undefined;
  link: Link | undefined;
  state: PlayerState = { lobby: undefined, room: undefined };
  pass: OwedPass | undefined;
  ticket: TicketView | undefined;
  resumes = 0;
  refusals = 0;
  /** The newest entry of its own that was acknowledged. */
  acknowledged: Written | undefined;
  acknowledgements = 0;
  #asked = 0;
  #count = 0;
  readonly #writing = new Map<number, number>();

  constructor(name: string) {
    this.name = name;
  }

  /** Key of the entry that it counts up on the board. */
  get key(): string {
    return `count.${this.name.toLowerCase()}`;
  }

  ask(command: Asking): void {
    this.link?.up.push({ id: ++this.#asked, command });
  }

  /** Writes the next number on the board of its room. */
  write(): void {
    const { room } = this.state;
    if (room === undefined || this.id === undefined) return;
    const value = ++this.#count;
    this.#writing.set(this.#asked + 1, value);
    this.ask({ do: "board.set", player: this.id, args: { key: this.key, value, onLeave: "keep" } });
  }

  /** Its wire is gone; what it waited for it will never hear. */
  disconnect(): void {
    this.link = undefined;
    this.#writing.clear();
  }

  /** Takes one frame; throws when it shows what is not durable, or leaves something out. */
  hear(text: string, shadow: Shadow): void {
    const said = JSON.parse(text) as Said;
    switch (said.say) {
      case "state":
        if (this.id !== undefined) this.resumes += 1;
        this.id = said.player;
        this.pass = said.pass;
        this.ticket = said.ticket;
        return this.#hold(said, shadow);
      case "refused-hello":
        this.#forget();
        return this.disconnect();
      case "reply":
        return this.#reply(said, shadow);
      case "update":
        return this.#update(said.update, shadow);
      case "pass":
        this.pass = said.pass;
        return;
      case "close":
        if (said.code === "kicked") this.#forget();
        return this.disconnect();
    }
  }

  checkPromises(shadow: Shadow): void {
    if (this.acknowledged === undefined) return;
    const { room: id, count } = this.acknowledged;
    const room = shadow.state.rooms.byId.get(id);
    if (room === undefined) return;
    const kept = Number(room.board.get(this.key)?.value ?? 0);
    if (kept < count)
      throw new Fault("lost", `${this.name} was told that ${count} is written in ${id}; it has ${kept}`);
  }

  /** It is somebody new to the service. */
  #forget(): void {
    this.id = undefined;
    this.pass = undefined;
    this.ticket = undefined;
    this.state = { lobby: undefined, room: undefined };
  }

  #hold({ lobby, room }: Partial<PlayerState>, shadow: Shadow): void {
    this.state = { lobby, room };
    this.#check(shadow);
  }

  #check(shadow: Shadow): void {
    const { lobby, room } = this.state;
    if (room) shadow.checkState(this.name, "room", room);
    if (lobby) shadow.checkState(this.name, "lobby", lobby);
  }

  #reply({ id, reply, problem }: Extract<Said, { say: "reply" }>, shadow: Shadow): void {
    const written = this.#writing.get(id);
    this.#writing.delete(id);
    if (problem) {
      this.refusals += 1;
      if (problem.code === "internal") throw new Fault("internal", problem.detail);
      return;
    }
    this.acknowledgements += 1;
    const { room } = this.state;
    if (written !== undefined && room) {
      // Replies and update come in the order of what happened, so it was written in the room that it is in now.
      this.acknowledged = { room: room.id, count: written };
      this.checkPromises(shadow);
    }
    const { room: entered, lobby } = (reply ?? {}) as Partial<PlayerState>;
    if (entered || lobby) this.#hold({ room: entered, lobby }, shadow);
  }

  #update(update: Update, shadow: Shadow): void {
    if (update.scope === "you") {
      if ("lobby" in update.event) this.#hold({ lobby: update.event.lobby, room: undefined }, shadow);
      if (update.event.kind === "into-room") this.#hold({ lobby: undefined, room: update.event.room }, shadow);
      if (update.event.kind === "ticket-changed") this.ticket = update.event.ticket;
      if (update.event.kind === "ticket-ended") this.ticket = undefined;
      return;
    }
    const patched = applyUpdate(this.state, update);
    if (patched.outcome === "gap")
      throw new Fault("gap", `${this.name} misses update before ${JSON.stringify(update)}`);
    if (patched.outcome === "stale") return;
    this.state = patched.state;
    this.#check(shadow);
  }
}
