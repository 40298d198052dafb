import { randomBytes, scrypt, timingSafeEqual } from "node:crypto";
import type { Tokens } from "../keys/tokens.ts";

/** Of scrypt (RFC 7914): some 30 ms and 16 MiB for each. */
const COST = { N: 16_384, r: 8, p: 1 } as const;
const BYTES = 32;
/** Worked out at once, and waiting behind that. Other work of the same threads must not wait for passwords. */
const AT_ONCE = 2;
const WAITING_MAX = 256;
/** Of those who share an address so many, so that one address keeps no other one waiting. */
const OF_ONE_MAX = 4;

/**
 * Passwords of rooms as they are kept: `scrypt.SALT.SUM`, in base64url. What goes in is keyed with the secret of the service,
 * so that nobody can guess who has the journal alone.
 */
export class Passwords {
  readonly #tokens: Pick<Tokens, "keyedSum">;
  readonly #waiting: (() => void)[] = [];
  readonly #ofOne = new WeakMap<object, number>();
  #underWay = 0;

  constructor(tokens: Pick<Tokens, "keyedSum">) {
    this.#tokens = tokens;
  }

  /** Whether one more of somebody, such as an address, would have to wait for too long. */
  isBusyFor(whom: object): boolean {
    return this.#waiting.length >= WAITING_MAX || (this.#ofOne.get(whom) ?? 0) >= OF_ONE_MAX;
  }

  /** Counts what is done for somebody as long as it takes. */
  async doFor<T>(whom: object, what: () => Promise<T>): Promise<T> {
    this.#ofOne.set(whom, (this.#ofOne.get(whom) ?? 0) + 1);
    try {
      return await what();
    } finally {
      this.#ofOne.set(whom, (this.#ofOne.get(whom) ?? 1) - 1);
    }
  }

  async seal(typed: string): Promise<string> {
    const salt = randomBytes(16);
    const sum = await this.#sum(typed, salt);
    return `scrypt.${salt.toString("base64url")}.${sum.toString("base64url")}`;
  }

  async isRight(typed: string, sealed: string): Promise<boolean> {
    const [, salt = "", kept = ""] = sealed.split(".");
    const sum = await this.#sum(typed, Buffer.from(salt, "base64url"));
    const known = Buffer.from(kept, "base64url");
    return known.length === sum.length && timingSafeEqual(sum, known);
  }

  async #sum(typed: string, salt: Buffer): Promise<Buffer> {
    if (this.#underWay >= AT_ONCE) await new Promise<void>((resolve) => this.#waiting.push(resolve));
    this.#underWay += 1;
    try {
      return await new Promise<Buffer>((resolve, reject) => {
        const keyed = this.#tokens.keyedSum("password", typed);
        scrypt(keyed, salt, BYTES, COST, (error, sum) => (error ? reject(error) : resolve(sum)));
      });
    } finally {
      this.#underWay -= 1;
      this.#waiting.shift()?.();
    }
  }
}
