import type { PlayerId, Problem, RefusalView } from "@yellow-harbor/protocol";

/** So long a refusal is remembered, in memory alone. */
const KEEP_MS = 3_600_000;
const EACH_MAX = 8;
const PLAYERS_MAX = 5_000;
const DETAIL_MAX = 300;

/** What players were refused lately, so that an operator can say why a join or a search came to nothing. */
export class RefusedLately {
  readonly #byPlayer = new Map<PlayerId, readonly RefusalView[]>();

  note(player: PlayerId, ask: string, { code, detail }: Pick<Problem, "code" | "detail">, atMs: number): void {
    const [last, ...before] = this.#byPlayer.get(player) ?? [];
    // The same again and again does not push out what else there was.
    const isSame = last?.ask === ask && last.code === code;
    const next: RefusalView = {
      atMs,
      ask,
      code,
      detail: detail.slice(0, DETAIL_MAX),
      times: isSame ? last.times + 1 : 1,
    };
    const rest = isSame || last === undefined ? before : [last, ...before];
    // Whoever was refused last is the last to be forgotten.
    this.#byPlayer.delete(player);
    this.#byPlayer.set(player, [next, ...rest].slice(0, EACH_MAX));
    for (const [known, list] of this.#byPlayer) {
      if (this.#byPlayer.size <= PLAYERS_MAX && (list[0]?.atMs ?? 0) > atMs - KEEP_MS) break;
      this.#byPlayer.delete(known);
    }
  }

  /** The newest first. */
  of(player: PlayerId, atMs: number): RefusalView[] {
    return (this.#byPlayer.get(player) ?? []).filter((one) => one.atMs > atMs - KEEP_MS);
  }
}
