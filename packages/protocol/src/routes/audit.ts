import { AuditCheck, AuditPage, AuditQuery } from "../audit.ts";
import type { HttpRoutes } from "./route.ts";

const looks = { tag: "audit", needs: "operate", method: "GET" } as const;

/** What operators did. */
export const auditRoutes = {
  audit: {
    ...looks,
    path: "/v1/audit",
    summary: "What operators did and tried, the newest first.",
    query: AuditQuery,
    reply: AuditPage,
  },
  checkAudit: {
    ...looks,
    path: "/v1/audit/check",
    summary: "Whether every entry of the audit log is there as it was written.",
    reply: AuditCheck,
  },
} as const satisfies HttpRoutes;
