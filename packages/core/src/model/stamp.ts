/** What a command is decided with: the time and the entropy. Core has no other source of either. */
export interface Stamp {
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly at: number;
  /** Four unsigned 32-bit numbers from a secure source (live) or from a seed (tests, simulation). */
  readonly entropy: Entropy;
}
export type Entropy = readonly [number, number, number, number];

/** Deterministic numbers drawn from one stamp's entropy. */
export interface Random {
  /** Whole number from 0 to `below - 1`. */
  below(below: number): number;
  /** Number of the harbor whose ids are made from it. */
  readonly harbor: number;
}

/** sfc32 (C. Doty-Humphrey, PractRand): small, fast, passes the usual statistical batteries. Not for secrets. */
export function randomFrom([e0, e1, e2, e3]: Entropy, harbor = 0): Random {
  let a = e0 | 0;
  let b = e1 | 0;
  let c = e2 | 0;
  let counter = e3 | 0;
  const next = () => {
    const t = (((a + b) | 0) + counter) | 0;
    counter = (counter + 1) | 0;
    a = b ^ (b >>> 9);
    b = (c + (c << 3)) | 0;
    c = (c << 21) | (c >>> 11);
    c = (c + t) | 0;
    return t >>> 0;
  };
  return { harbor, below: (below) => Math.floor((next() / 0x1_0000_0000) * below) };
}

const ID_ALPHABET = "0123456789abcdefghijklmnopqrstuvwxyz";
const ID_LENGTH = 12;

/**
 * An id such as `r_4kq2m7c9x0ab`: 62 bits, unguessable only as far as the stamp's entropy is; never used as a secret. Before
 * them stands the harbor that it belongs to, as in `r_014kq2m7c9x0ab`, unless that is the first: see `harborOfId`.
 */
export function newId(prefix: string, random: Random): string {
  let id = `${prefix}_${random.harbor === 0 ? "" : random.harbor.toString(36).padStart(2, "0")}`;
  for (let n = 0; n < ID_LENGTH; n++) id += ID_ALPHABET[random.below(ID_ALPHABET.length)];
  return id;
}
