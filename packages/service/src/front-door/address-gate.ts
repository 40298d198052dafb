import { type Problem, problem } from "@yellow-harbor/protocol";
import { networkOf } from "@yellow-harbor/reach";
import { RateLimit } from "./rate-limit.ts";

export interface AddressLimits {
  /** Most connections that are open at once. */
  readonly connections: number;
  /** New connections in a second, on average; twice as many at once. */
  readonly perSecond: number;
}

/** An address, or a network, with what it has open. Whoever takes a connection counts it here until its socket is gone, refused or not. */
export interface AddressQuota {
  open: number;
  readonly rate: RateLimit;
  /** New guests: whoever drops keeps a place for its grace, so an address may not bring them without end. */
  readonly guests: RateLimit;
  lastMs: number;
}

/** In so many seconds an address may bring as many guests anew as it may have connections. */
const GUESTS_ANEW_S = 60;

/** Addresses that are remembered before those with nothing open are looked through. */
const KNOWN_MAX = 10_000;
/** So long after its last attempt the pace of an address with nothing open is forgotten. */
const FORGET_MS = 60_000;

function newQuota({ connections, perSecond }: AddressLimits, nowMs: number): AddressQuota {
  const rate = new RateLimit(perSecond, 2 * perSecond, nowMs);
  return { open: 0, rate, guests: new RateLimit(connections / GUESTS_ANEW_S, connections, nowMs), lastMs: 0 };
}

/** Counts the connections of each address, so that one computer cannot take the places of all others. */
export class AddressGate {
  readonly #limits: AddressLimits;
  readonly #quotas = new Map<string, AddressQuota>();
  #forgetAt = KNOWN_MAX;

  constructor(limits: AddressLimits) {
    this.#limits = limits;
  }

  /** Whether one more connection may come from an address. It is the caller who counts it. */
  admit(address: string, nowMs: number): { readonly quota: AddressQuota } | { readonly refused: Problem } {
    const { connections, perSecond } = this.#limits;
    const key = networkOf(address);
    if (this.#quotas.size >= this.#forgetAt) this.#forget(nowMs);
    const quota = this.#quotas.get(key) ?? newQuota(this.#limits, nowMs);
    this.#quotas.set(key, quota);
    quota.lastMs = nowMs;
    if (!quota.rate.take(nowMs)) {
      const detail = `More than ${perSecond} new connections a second come from ${key}; wait a moment before connecting again.`;
      return { refused: problem("too-many-connections", detail) };
    }
    if (quota.open >= connections) {
      const detail = `${connections} connections from ${key} are open, which is the most; close some of them first.`;
      return { refused: problem("too-many-connections", detail) };
    }
    return { quota };
  }

  /** Forgets who has nothing open and has not come for a while. With many that stay it is looked for less often. */
  #forget(nowMs: number): void {
    for (const [key, { open, lastMs }] of this.#quotas) {
      if (open === 0 && nowMs - lastMs > FORGET_MS) this.#quotas.delete(key);
    }
    this.#forgetAt = Math.max(KNOWN_MAX, 2 * this.#quotas.size);
  }
}
