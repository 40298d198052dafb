import { CODE_ALPHABET, CODE_LENGTH } from "@yellow-harbor/protocol";
import { type Refusal, refuse } from "../../model/decision.ts";
import type { RoomsState } from "../../model/rooms/state.ts";
import type { HarborRules } from "../../model/rules.ts";
import type { Entropy } from "../../model/stamp.ts";

const BASE = CODE_ALPHABET.length;
/** How many codes there are. A code comes again only after all others were given out, which is its cooling time. */
export const CODE_SPACE = BASE ** CODE_LENGTH;
const HALF = Math.ceil(Math.sqrt(CODE_SPACE));

/** How many codes a harbor may give out at the same time: its share of all. */
const shareOf = ({ of }: Share): number => Math.floor(CODE_SPACE / of);

type Share = HarborRules["share"];

/**
 * The code of the n-th room ever opened. Codes cannot collide: this is a permutation of the code space, a four-round
 * Feistel network over two digits of base ceil(sqrt(space)), walked until it lands inside the space (J. Black and
 * P. Rogaway, "Ciphers with Arbitrary Finite Domains", 2002). The key keeps codes from being guessed from each other.
 */
export function codeOf(number: number, key: Entropy): string {
  let spot = number;
  do spot = shuffled(spot, key);
  while (spot >= CODE_SPACE);
  let code = "";
  for (let n = 0; n < CODE_LENGTH; n++) {
    code += CODE_ALPHABET[spot % BASE];
    spot = Math.floor(spot / BASE);
  }
  return code;
}

/** Which of so many harbors has given out a code. Undefined for what no harbor gives out. */
export function harborOfCode(
  code: string,
  { codeKey, share }: Pick<HarborRules, "codeKey" | "share">,
): number | undefined {
  let spot = 0;
  for (const character of [...code].reverse()) {
    const digit = CODE_ALPHABET.indexOf(character);
    if (digit < 0) return undefined;
    spot = spot * BASE + digit;
  }
  if (code.length !== CODE_LENGTH) return undefined;
  do spot = unshuffled(spot, codeKey);
  while (spot >= CODE_SPACE);
  return spot < shareOf(share) * share.of ? spot % share.of : undefined;
}

/**
 * The next code that no open room has: a room that outlives the whole cycle keeps its own. Undefined while every code of the
 * harbor is some room's.
 */
export function freeCode(
  { opened, byCode }: Pick<RoomsState, "opened" | "byCode">,
  { codeKey, share }: Pick<HarborRules, "codeKey" | "share">,
): { readonly code: string; readonly codeNumber: number } | undefined {
  const ours = shareOf(share);
  if (byCode.size >= ours) return undefined;
  for (let codeNumber = opened; ; codeNumber++) {
    const code = codeOf((codeNumber % ours) * share.of + share.number, codeKey);
    if (!byCode.has(code)) return { code, codeNumber };
  }
}

export const codesUsedUp = (rooms: number): Refusal =>
  refuse("codes-used-up", `All ${rooms} room codes of this harbor are in use; try again when a room has closed.`);

/** One pass of the network over a number below `HALF` squared. */
function shuffled(spot: number, key: Entropy): number {
  let left = Math.floor(spot / HALF);
  let right = spot % HALF;
  for (const roundKey of key) [left, right] = [right, (left + mix(right, roundKey)) % HALF];
  return left * HALF + right;
}

/** The pass undone. */
function unshuffled(spot: number, key: Entropy): number {
  let left = Math.floor(spot / HALF);
  let right = spot % HALF;
  for (const roundKey of [...key].reverse())
    [left, right] = [(right - (mix(left, roundKey) % HALF) + HALF) % HALF, left];
  return left * HALF + right;
}

/** 32-bit finaliser of MurmurHash3 (A. Appleby), keyed by addition. */
function mix(value: number, key: number): number {
  let h = (value + key) >>> 0;
  h = Math.imul(h ^ (h >>> 16), 0x85eb_ca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2_ae35);
  return (h ^ (h >>> 16)) >>> 0;
}
