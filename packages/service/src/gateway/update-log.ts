/** How long updates are kept for those who come back, and how many of them altogether. */
const KEPT_MS = 30_000;
const KEPT_LENGTH = 4_194_304;

interface LoggedState {
  readonly key: string;
  /** Update by the revision it brings about. */
  readonly texts: Map<number, string>;
}

interface Kept {
  readonly state: LoggedState;
  readonly revision: number;
  readonly atMs: number;
}

/**
 * The update of the last half minute, so that who comes back can be sent what it missed. Kept as text: a frame of a few
 * bytes would hold the whole of the memory it was cut from.
 */
export class UpdateLog {
  readonly #states = new Map<string, LoggedState>();
  #queue: Kept[] = [];
  #first = 0;
  #length = 0;

  add(scope: string, id: string, revision: number, text: string, atMs: number): void {
    const state = this.#stateOf(`${scope}:${id}`);
    state.texts.set(revision, text);
    this.#queue.push({ state, revision, atMs });
    this.#length += text.length;
    this.#forgetOld(atMs);
  }

  /** All update after one revision up to another, or undefined when some are not there any more. */
  between(scope: string, id: string, after: number, upTo: number): string[] | undefined {
    const known = this.#states.get(`${scope}:${id}`)?.texts;
    if (after > upTo || (known?.size ?? 0) < upTo - after) return undefined;
    const texts: string[] = [];
    for (let revision = after + 1; revision <= upTo; revision++) {
      const text = known?.get(revision);
      if (text === undefined) return undefined;
      texts.push(text);
    }
    return texts;
  }

  #stateOf(key: string): LoggedState {
    const known = this.#states.get(key);
    if (known) return known;
    const state = { key, texts: new Map<number, string>() };
    this.#states.set(key, state);
    return state;
  }

  #forgetOld(now: number): void {
    for (let old = this.#queue[this.#first]; old !== undefined; old = this.#queue[this.#first]) {
      if (now - old.atMs <= KEPT_MS && this.#length <= KEPT_LENGTH) break;
      this.#first += 1;
      const { key, texts } = old.state;
      this.#length -= texts.get(old.revision)?.length ?? 0;
      texts.delete(old.revision);
      if (texts.size === 0) this.#states.delete(key);
    }
    if (this.#first > 1_024 && this.#first * 2 > this.#queue.length) {
      this.#queue = this.#queue.slice(this.#first);
      this.#first = 0;
    }
  }
}
