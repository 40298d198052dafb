/** How long news is kept for those who come back, and how much of it altogether. */
const KEPT_MS = 60_000;
const KEPT_BYTES = 33_554_432;

interface Kept {
  readonly key: string;
  readonly revision: number;
  readonly frame: Buffer;
  readonly atMs: number;
}

/** The news of the last minute, encoded as it was sent, so that who comes back can be sent what it missed. */
export class NewsLog {
  readonly #byPicture = new Map<string, Kept[]>();
  #queue: Kept[] = [];
  #first = 0;
  #bytes = 0;

  add(scope: string, id: string, revision: number, frame: Buffer, atMs: number): void {
    const key = `${scope}:${id}`;
    const kept = { key, revision, frame, atMs };
    const known = this.#byPicture.get(key);
    if (known) known.push(kept);
    else this.#byPicture.set(key, [kept]);
    this.#queue.push(kept);
    this.#bytes += frame.length;
    this.#forgetOld(atMs);
  }

  /** All frames after one revision up to another, or undefined when some are not there any more. */
  between(scope: string, id: string, after: number, upTo: number): Buffer[] | undefined {
    if (after === upTo) return [];
    const frames = (this.#byPicture.get(`${scope}:${id}`) ?? []).filter(
      ({ revision }) => revision > after && revision <= upTo,
    );
    return after < upTo && frames.length === upTo - after ? frames.map(({ frame }) => frame) : undefined;
  }

  #forgetOld(now: number): void {
    for (let old = this.#queue[this.#first]; old !== undefined; old = this.#queue[this.#first]) {
      if (now - old.atMs <= KEPT_MS && this.#bytes <= KEPT_BYTES) break;
      this.#first += 1;
      this.#bytes -= old.frame.length;
      const known = this.#byPicture.get(old.key);
      known?.shift();
      if (known?.length === 0) this.#byPicture.delete(old.key);
    }
    if (this.#first > 1_024 && this.#first * 2 > this.#queue.length) {
      this.#queue = this.#queue.slice(this.#first);
      this.#first = 0;
    }
  }
}
