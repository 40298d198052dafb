/** What one writer was told, and what others were shown of it. */
export interface Account {
  /** The last write that was acknowledged. */
  acknowledged: number;
  /** The highest value that anybody was shown. */
  shown: number;
}

export interface Audit {
  /** Acknowledged, but not there. */
  readonly lost: number;
  /** Shown to somebody, but not there. */
  readonly unannounced: number;
}

/** Each writer counts upwards on an entry of its own: whatever is there is at least what was acknowledged or shown. */
export class Ledger {
  readonly #accounts = new Map<string, Account>();
  acknowledged = 0;

  acknowledge(key: string, value: number): void {
    this.acknowledged += 1;
    const account = this.#accountOf(key);
    account.acknowledged = Math.max(account.acknowledged, value);
  }

  show(key: string, value: number): void {
    const account = this.#accountOf(key);
    account.shown = Math.max(account.shown, value);
  }

  /** What was acknowledged and shown so far, to be held against what is there later. */
  copy(): ReadonlyMap<string, Account> {
    return new Map([...this.#accounts].map(([key, account]) => [key, { ...account }]));
  }

  #accountOf(key: string): Account {
    const known = this.#accounts.get(key);
    if (known) return known;
    const account = { acknowledged: 0, shown: 0 };
    this.#accounts.set(key, account);
    return account;
  }
}

/** Holds what was acknowledged and shown before a moment against what is there after it. */
export function audit(before: ReadonlyMap<string, Account>, there: (key: string) => number): Audit {
  let [lost, unannounced] = [0, 0];
  for (const [key, { acknowledged, shown }] of before) {
    const value = there(key);
    if (value < acknowledged) lost += acknowledged - value;
    if (value < shown) unannounced += shown - value;
  }
  return { lost, unannounced };
}
