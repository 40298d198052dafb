/** How long news is kept for those who come back, and how much of it altogether. */
const KEPT_MS = 30_000;
const KEPT_LENGTH = 4_194_304;

interface Kept {
  readonly key: string;
  readonly revision: number;
  readonly length: number;
  readonly atMs: number;
}

/**
 * The news of the last half minute, so that who comes back can be sent what it missed. Kept as text: a frame of a few
 * bytes would hold the whole of the memory it was cut from.
 */
export class NewsLog {
  readonly #byPicture = new Map<string, Map<number, string>>();
  #queue: Kept[] = [];
  #first = 0;
  #length = 0;

  add(scope: string, id: string, revision: number, text: string, atMs: number): void {
    const key = `${scope}:${id}`;
    const known = this.#byPicture.get(key);
    if (known) known.set(revision, text);
    else this.#byPicture.set(key, new Map([[revision, text]]));
    this.#queue.push({ key, revision, length: text.length, atMs });
    this.#length += text.length;
    this.#forgetOld(atMs);
  }

  /** All news after one revision up to another, or undefined when some are not there any more. */
  between(scope: string, id: string, after: number, upTo: number): string[] | undefined {
    const known = this.#byPicture.get(`${scope}:${id}`);
    if (after > upTo || (known?.size ?? 0) < upTo - after) return undefined;
    const texts: string[] = [];
    for (let revision = after + 1; revision <= upTo; revision++) {
      const text = known?.get(revision);
      if (text === undefined) return undefined;
      texts.push(text);
    }
    return texts;
  }

  #forgetOld(now: number): void {
    for (let old = this.#queue[this.#first]; old !== undefined; old = this.#queue[this.#first]) {
      if (now - old.atMs <= KEPT_MS && this.#length <= KEPT_LENGTH) break;
      this.#first += 1;
      this.#length -= old.length;
      const known = this.#byPicture.get(old.key);
      known?.delete(old.revision);
      if (known?.size === 0) this.#byPicture.delete(old.key);
    }
    if (this.#first > 1_024 && this.#first * 2 > this.#queue.length) {
      this.#queue = this.#queue.slice(this.#first);
      this.#first = 0;
    }
  }
}
