import type { Latency } from "@yellow-harbor/core";

/** Samples before the first word: fewer say more of the handshake than of the way. */
const SAMPLES_MIN = 3;
/** A change is told at most so often, and only when somebody would notice it. */
const TOLD_EVERY_MS = 5_000;
const CHANGE_LEAST_MS = 5;
const CHANGE_LEAST_SHARE = 0.2;

/** Smooths round trips as TCP does: gains of 1/8 and 1/4 (RFC 6298, section 2). */
export class LatencyMeter {
  #samples = 0;
  #smoothMs = 0;
  #deviationMs = 0;
  #told: { readonly latencyMs: number; readonly atMs: number } | undefined;

  /** Takes a round trip. Returns the latency when it has changed enough to be told. */
  take(roundTripMs: number, atMs: number): Latency | undefined {
    this.#samples += 1;
    if (this.#samples === 1) {
      this.#smoothMs = roundTripMs;
      this.#deviationMs = roundTripMs / 2;
    } else {
      this.#deviationMs += (Math.abs(this.#smoothMs - roundTripMs) - this.#deviationMs) / 4;
      this.#smoothMs += (roundTripMs - this.#smoothMs) / 8;
    }
    if (this.#samples < SAMPLES_MIN || !this.#isWorthTelling(atMs)) return undefined;
    this.#told = { latencyMs: this.#smoothMs, atMs };
    return { latencyMs: tenths(this.#smoothMs), jitterMs: tenths(this.#deviationMs) };
  }

  #isWorthTelling(atMs: number): boolean {
    if (this.#told === undefined) return true;
    const change = Math.abs(this.#smoothMs - this.#told.latencyMs);
    const min = Math.max(CHANGE_LEAST_MS, this.#told.latencyMs * CHANGE_LEAST_SHARE);
    return change >= min && atMs - this.#told.atMs >= TOLD_EVERY_MS;
  }
}

const tenths = (ms: number) => Math.round(ms * 10) / 10;
