import type { MatchAssignment } from "@yellow-harbor/protocol";
import { type Crew, crewOf } from "../game/wire.ts";

export interface Outcome {
  readonly winner: Crew | "nobody";
  readonly walls: Readonly<Record<Crew, number>>;
  /** Each player's score: what its crew's wall stands at when the tide is in. */
  readonly standings: readonly { readonly player: string; readonly score: number }[];
  readonly note: string;
}

/** One run of Tidewrights: who is promised, who is aboard, what was laid. The one place that decides who won. */
export class TideMatch {
  readonly order: MatchAssignment;
  readonly #players: Map<string, MatchAssignment["players"][number]>;
  readonly #aboard = new Set<string>();
  readonly #walls: Record<Crew, number> = { gulls: 0, terns: 0 };

  constructor(order: MatchAssignment) {
    this.order = order;
    this.#players = new Map(order.players.map((player) => [player.id, player]));
  }

  get names(): string[] {
    return [...this.#players.values()].map(({ name }) => name);
  }

  /** One more is promised a berth. */
  expect(player: MatchAssignment["players"][number]): void {
    this.#players.set(player.id, player);
  }

  /** A player is not coming, or not coming back. */
  release(player: string): void {
    this.#players.delete(player);
    this.#aboard.delete(player);
  }

  board(player: string): void {
    this.#aboard.add(player);
  }

  get everybodyIsAboard(): boolean {
    return this.#players.size > 0 && [...this.#players.keys()].every((id) => this.#aboard.has(id));
  }

  /** Lays a stone for a player; returns the walls after it, or undefined for a stone that is none. */
  lay(player: string, stone: unknown): Readonly<Record<Crew, number>> | undefined {
    const place = this.#players.get(player)?.place;
    const isStone = Number.isInteger(stone) && Number(stone) >= 1 && Number(stone) <= 9;
    if (place === undefined || !isStone) return undefined;
    this.#walls[crewOf(place)] += Number(stone);
    return { ...this.#walls };
  }

  finish(): Outcome {
    const { gulls, terns } = this.#walls;
    const winner = gulls === terns ? "nobody" : gulls > terns ? "gulls" : "terns";
    const standings = [...this.#players.values()].map(({ id, place }) => ({
      player: id,
      score: this.#walls[crewOf(place)],
    }));
    return { winner, walls: { gulls, terns }, standings, note: `${winner} kept the tide out, ${gulls} to ${terns}` };
  }
}
