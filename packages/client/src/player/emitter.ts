/** Listeners by kind. A listener may remove itself, or others, while it is called. */
export class Emitter<Events extends object> {
  readonly #listeners: { [K in keyof Events]?: Set<(event: Events[K]) => void> } = {};

  /** Adds a listener; returns how to remove it. */
  on<K extends keyof Events>(kind: K, listener: (event: Events[K]) => void): () => void {
    const listeners = this.#listeners[kind] ?? new Set();
    this.#listeners[kind] = listeners;
    listeners.add(listener);
    return () => listeners.delete(listener);
  }

  emit<K extends keyof Events>(kind: K, event: Events[K]): void {
    for (const listener of [...(this.#listeners[kind] ?? [])]) listener(event);
  }
}
