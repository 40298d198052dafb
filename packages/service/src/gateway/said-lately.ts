import type { Heard, Player } from "@yellow-harbor/core";
import type { PlayerId, SaidView } from "@yellow-harbor/protocol";

/** So much of what is said is remembered for reports: in memory alone, and no longer than that. */
const KEEP_MS = 600_000;
const LINES_MAX = 5;
const PLAYERS_MAX = 5_000;

type Line = SaidView & { readonly only?: PlayerId };

interface Speaker {
  readonly name: string;
  readonly account: string | undefined;
  readonly lines: Line[];
}

/** What players said lately, so that who is reported can be shown with it. Nothing of it is written anywhere before. */
export class SaidLately {
  readonly #speakers = new Map<PlayerId, Speaker>();

  /** `only` is to whom alone it was said. */
  note(
    { id, name, identity }: Pick<Player, "id" | "name" | "identity">,
    text: string,
    atMs: number,
    only?: PlayerId,
  ): void {
    const lines = this.#speakers.get(id)?.lines ?? [];
    // Whoever spoke last is the last to be forgotten.
    this.#speakers.delete(id);
    const line =
      only === undefined ? { text, to: "lobby" as const, atMs } : { text, to: "player" as const, atMs, only };
    this.#speakers.set(id, { name, account: identity?.account, lines: [...lines, line].slice(-LINES_MAX) });
    for (const [known, { lines }] of this.#speakers) {
      if (this.#speakers.size <= PLAYERS_MAX && (lines.at(-1)?.atMs ?? 0) > atMs - KEEP_MS) break;
      this.#speakers.delete(known);
    }
  }

  /** What somebody said that another could hear. */
  heardBy(listener: PlayerId, speaker: PlayerId, atMs: number): Heard | undefined {
    const known = this.#speakers.get(speaker);
    const fresh = known?.lines.filter((line) => line.atMs > atMs - KEEP_MS) ?? [];
    if (known === undefined || fresh.length === 0) return undefined;
    const said = fresh.filter(({ only }) => only === undefined || only === listener);
    return {
      name: known.name,
      account: known.account,
      said: said.map(({ text, to, atMs: at }) => ({ text, to, atMs: at })),
    };
  }
}
