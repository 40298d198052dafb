/** Round trip to the service and its mean deviation, both smoothed, in milliseconds. */
export interface Latency {
  readonly latencyMs: number;
  readonly jitterMs: number;
}
