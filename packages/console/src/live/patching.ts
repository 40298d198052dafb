type Json = Record<string, unknown>;

/**
 * Applies merge patches (RFC 7396, section 2), many in a row. What a patch changes is copied once between two looks, however
 * often it is changed meanwhile; what is not changed stays the same object, so that it is seen to be.
 */
export class Patching<T extends object> {
  #state: T;
  /** Objects that were copied since the last look, and that nobody else has. */
  #own = new WeakSet<object>();

  constructor(state: T) {
    this.#state = state;
  }

  apply(patch: unknown): void {
    this.#state = this.#merged(this.#state, patch) as T;
  }

  /** The state as it is now. What was given out is never changed any more. */
  look(): T {
    this.#own = new WeakSet();
    return this.#state;
  }

  #merged(target: unknown, patch: unknown): unknown {
    if (!isObject(patch)) return patch;
    const result = this.#ownOf(target);
    for (const [key, value] of Object.entries(patch)) {
      if (value === null) delete result[key];
      else result[key] = isObject(value) ? this.#merged(result[key], value) : value;
    }
    return result;
  }

  #ownOf(target: unknown): Json {
    if (isObject(target) && this.#own.has(target)) return target;
    const copy: Json = isObject(target) ? { ...target } : {};
    this.#own.add(copy);
    return copy;
  }
}

const isObject = (value: unknown): value is Json =>
  typeof value === "object" && value !== null && !Array.isArray(value);
