import { z } from "zod";
import { AlertList } from "../alerts.ts";
import { Backup, Drain, Draining, JournalPage, JournalQuery, StatusView } from "../operator-api.ts";
import { AboutView } from "../reach.ts";
import { Series, SeriesQuery } from "../series.ts";
import type { HttpRoutes } from "./route.ts";

const Readiness = z
  .object({
    ok: z.boolean(),
    state: z.enum(["starting", "ready", "degraded", "halted", "stopping"]).meta({
      description: "degraded: players may be sent here, and an alert is raised that should wake somebody.",
    }),
    detail: z.string(),
    alerts: z.array(z.string()).meta({ description: "Names of the alerts that are raised." }),
  })
  .meta({ id: "Readiness" });

const Health = z.object({ ok: z.boolean(), detail: z.string() }).meta({ id: "Health" });

/** What anybody may ask. */
export const publicRoutes = {
  healthz: {
    method: "GET",
    path: "/healthz",
    tag: "health",
    needs: null,
    summary: "Whether the process is alive and worth keeping.",
    reply: Health,
    badStatus: 503,
  },
  readyz: {
    method: "GET",
    path: "/readyz",
    tag: "health",
    needs: null,
    summary: "Whether players may be sent here now, and what is not well.",
    reply: Readiness,
    badStatus: 503,
  },
  about: {
    method: "GET",
    path: "/v1/about",
    tag: "health",
    needs: null,
    summary: "What a client has to know before it connects.",
    reply: AboutView,
  },
} as const satisfies HttpRoutes;

/** The service as a whole: in numbers, as it happens, as it was recorded, and a copy of all that is kept. */
export const serviceRoutes = {
  status: {
    method: "GET",
    path: "/v1/status",
    tag: "service",
    needs: "look",
    summary: "The service in numbers.",
    reply: StatusView,
  },
  series: {
    method: "GET",
    path: "/v1/series",
    tag: "service",
    needs: "look",
    summary: "Figures of the service over the last hour, day or month.",
    query: SeriesQuery,
    reply: Series,
  },
  alerts: {
    method: "GET",
    path: "/v1/alerts",
    tag: "service",
    needs: "look",
    summary: "What somebody should look at now.",
    reply: AlertList,
  },
  metrics: {
    method: "GET",
    path: "/metrics",
    tag: "service",
    needs: "look",
    summary: "Figures for monitoring systems, as OpenMetrics text; docs/metrics.md has the table of them.",
    streams: "application/openmetrics-text",
  },
  watch: {
    method: "GET",
    path: "/v1/watch",
    tag: "service",
    needs: "look",
    summary:
      "Everything as it happens: the whole state first, then each event with the merge patch for it (server-sent events).",
    streams: "text/event-stream",
  },
  journal: {
    method: "GET",
    path: "/v1/journal",
    tag: "service",
    needs: "look",
    summary: "Events of the journal, in order. A page may be empty while the journal goes on: ask on after `next`.",
    query: JournalQuery,
    reply: JournalPage,
  },
  backup: {
    method: "POST",
    path: "/v1/backup",
    tag: "service",
    needs: "administer",
    summary:
      "A consistent copy of all that is kept, as one SQLite file, while the service goes on: without the harbor's secret, or with it and sealed with a passphrase.",
    body: Backup,
    example: {},
    streams: "application/vnd.sqlite3",
  },
  drain: {
    method: "POST",
    path: "/v1/service/drain",
    tag: "service",
    needs: "administer",
    summary:
      "Stop the service as a signal does: newcomers are refused, players are told when and where to come back, all is written. Whatever keeps it running starts it again.",
    body: Drain,
    example: { backInS: 20 },
    reply: Draining,
  },
  openApi: {
    method: "GET",
    path: "/v1/openapi.json",
    tag: "service",
    needs: "look",
    summary: "This document: all that can be asked over HTTP (OpenAPI 3.1).",
    reply: z.looseObject({ openapi: z.string() }),
  },
} as const satisfies HttpRoutes;
