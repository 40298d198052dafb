import { problem } from "@yellow-harbor/protocol";

/** When and where a service that stops will be back. */
export interface DrainWish {
  readonly backInS?: number;
  readonly url?: string | undefined;
}

const RETRY_MIN_MS = 500;
/** Tries in a second that all who come back make together, at the most. */
const RETRIES_PER_SECOND = 4_000;

/** Those who come back try often enough to notice a start soon, and seldom enough not to be in its way. */
export const goodbye = (connections: number, { backInS = 0, url }: DrainWish) =>
  problem("shutting-down", "The service is stopping; connect again in a moment to resume.", {
    retryEveryMs: Math.max(RETRY_MIN_MS, Math.ceil((connections / RETRIES_PER_SECOND) * 1_000)),
    ...(backInS > 0 && { retryAfterMs: Math.round(backInS * 1_000) }),
    ...(url !== undefined && { retryUrl: url }),
  });
