import type { z } from "zod";
import type { OperatorRole } from "../keys.ts";

export type RouteHeader = "if-match" | "idempotency-key";

/** One thing that is asked over HTTP. Whoever serves, asks or describes it does so by this row. */
export interface HttpRoute {
  readonly method: "GET" | "POST";
  /** Names of parameters begin with a colon. */
  readonly path: `/${string}`;
  readonly tag:
    | "health"
    | "service"
    | "rooms"
    | "lobbies"
    | "parties"
    | "players"
    | "queues"
    | "pools"
    | "builds"
    | "instances"
    | "keys"
    | "bans"
    | "audit"
    | "configuration"
    | "webhooks"
    | "people"
    | "sessions"
    | "instances' own";
  /** What one must be allowed to do; the key of an instance; null for what anybody may ask. */
  readonly needs: OperatorRole | "instance" | null;
  readonly summary: string;
  /** Headers that count beside the key. */
  readonly headers?: readonly RouteHeader[];
  /** The answer has an entity tag (RFC 9110, section 8.8.3), for `If-Match`. */
  readonly tagged?: true;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodType;
  readonly body?: z.ZodType;
  /** A body that fits, for the documents. */
  readonly example?: object;
  /** What is answered as JSON. */
  readonly reply?: z.ZodType;
  /** The same is answered with this status when all is not well. */
  readonly badStatus?: 503;
  /** Media type of what is answered piece by piece, in place of a reply. */
  readonly streams?: "text/plain" | "text/event-stream" | "application/vnd.sqlite3" | "application/openmetrics-text";
}

export type HttpRoutes = Readonly<Record<string, HttpRoute>>;
