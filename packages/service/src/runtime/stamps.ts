import { randomFillSync } from "node:crypto";
import type { Entropy, Stamp } from "@yellow-harbor/core";

const WORDS = 1024;

/** Makes stamps from a clock that never runs back and the system's secure random numbers. */
export function stampMaker(now: () => number): () => Stamp {
  const pool = new Uint32Array(WORDS);
  let used = WORDS;
  const entropy = (): Entropy => {
    // Asking the system for a whole pool at once costs a fraction of asking for each stamp.
    if (used + 4 > WORDS) {
      randomFillSync(pool);
      used = 0;
    }
    const drawn: Entropy = [pool[used] ?? 0, pool[used + 1] ?? 0, pool[used + 2] ?? 0, pool[used + 3] ?? 0];
    used += 4;
    return drawn;
  };
  return () => ({ at: now(), entropy: entropy() });
}
