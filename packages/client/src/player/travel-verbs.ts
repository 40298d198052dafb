import type { PlayerArgsTyped, PlayerAsk, PlayerReply, RoomView } from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;
type Done = PlayerReply<"travel.arrive">;

/** Between two words of how far one has loaded, so that a loading bar does not drown everybody in update. */
const TELL_EVERY_MS = 250;

/** What a player says on its way to the run under way. Everything rejects with {@link ProblemError}. */
export class TravelVerbs {
  readonly #ask: Ask;
  readonly #room: () => RoomView | undefined;
  #told: { readonly run: string; readonly percent: number; readonly atMs: number } | undefined;

  constructor(ask: Ask, room: () => RoomView | undefined) {
    this.#ask = ask;
    this.#room = room;
  }

  /** How far one has loaded, 0 to 100. Call it as often as you like: it is told now and then, and only going up. */
  async progress(percent: number): Promise<void> {
    const run = this.#run;
    const whole = Math.floor(percent);
    const told = this.#told?.run === run ? this.#told : undefined;
    const now = Date.now();
    if (told && (whole <= told.percent || (whole < 100 && now - told.atMs < TELL_EVERY_MS))) return;
    this.#told = { run, percent: whole, atMs: now };
    await this.#ask("travel.progress", { run, percent: whole });
  }

  /** One has arrived, where the service relays. Elsewhere whoever takes the pass says so. */
  arrive(): Promise<Done> {
    return this.#ask("travel.arrive", { run: this.#run });
  }

  /** Host: gives the travel up. */
  abort(reason?: string): Promise<Done> {
    return this.#ask("travel.abort", { run: this.#run, ...(reason !== undefined && { reason }) });
  }

  /** As the member who is asked to run the world: it is up, at these addresses; a host left out is the one the service sees. */
  offer(addresses: PlayerArgsTyped<"travel.offer">["addresses"]): Promise<Done> {
    return this.#ask("travel.offer", { run: this.#run, addresses });
  }

  decline(reason: string): Promise<Done> {
    return this.#ask("travel.decline", { run: this.#run, reason });
  }

  /** One cannot reach the destination. */
  trouble(reason: string): Promise<Done> {
    return this.#ask("travel.trouble", { run: this.#run, reason });
  }

  /** As the member who runs the world: shows the pass of a player who has come. */
  board(pass: string, attempt?: string): Promise<PlayerReply<"travel.board">> {
    return this.#ask("travel.board", { pass, ...(attempt !== undefined && { attempt }) });
  }

  /** Asks for a pass anew; it comes as a `pass` event. */
  renewPass(): Promise<Done> {
    return this.#ask("travel.pass", { run: this.#run });
  }

  get #run(): string {
    const run = this.#room()?.run;
    if (run === undefined) throw ProblemError.of("travel-over", "No run is under way in the room.");
    return run;
  }
}
