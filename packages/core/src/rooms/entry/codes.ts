import { CODE_ALPHABET, CODE_LENGTH } from "@yellow-harbor/protocol";
import type { RoomsState } from "../../model/rooms/state.ts";
import type { Entropy } from "../../model/stamp.ts";

const BASE = CODE_ALPHABET.length;
/** How many codes there are. A code comes again only after all others were given out, which is its cooling time. */
export const CODE_SPACE = BASE ** CODE_LENGTH;
const HALF = Math.ceil(Math.sqrt(CODE_SPACE));

/**
 * The code of the n-th room ever opened. Codes cannot collide: this is a permutation of the code space, a four-round
 * Feistel network over two digits of base ceil(sqrt(space)), walked until it lands inside the space (J. Black and
 * P. Rogaway, "Ciphers with Arbitrary Finite Domains", 2002). The key keeps codes from being guessed from each other.
 */
export function codeOf(number: number, key: Entropy): string {
  let spot = number % CODE_SPACE;
  do {
    let left = Math.floor(spot / HALF);
    let right = spot % HALF;
    for (const roundKey of key) [left, right] = [right, (left + mix(right, roundKey)) % HALF];
    spot = left * HALF + right;
  } while (spot >= CODE_SPACE);
  let code = "";
  for (let n = 0; n < CODE_LENGTH; n++) {
    code += CODE_ALPHABET[spot % BASE];
    spot = Math.floor(spot / BASE);
  }
  return code;
}

/** The next code that no open room has: a room that outlives the whole cycle keeps its own. */
export function freeCode(
  { opened, byCode }: Pick<RoomsState, "opened" | "byCode">,
  codeKey: Entropy,
): {
  code: string;
  codeNumber: number;
} {
  for (let codeNumber = opened; ; codeNumber++) {
    const code = codeOf(codeNumber, codeKey);
    if (!byCode.has(code)) return { code, codeNumber };
  }
}

/** 32-bit finaliser of MurmurHash3 (A. Appleby), keyed by addition. */
function mix(value: number, key: number): number {
  let h = (value + key) >>> 0;
  h = Math.imul(h ^ (h >>> 16), 0x85eb_ca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2_ae35);
  return (h ^ (h >>> 16)) >>> 0;
}
