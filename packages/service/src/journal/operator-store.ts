import type { AuditCheck, AuditEntry, AuditPage, AuditQuery, OperatorRole } from "@yellow-harbor/protocol";
import type { NewWebhookEvent } from "./webhook-store.ts";

/** A key of an operator as it is kept: with the hash of its secret, times in milliseconds since 1970. */
export interface OperatorKeyRow {
  readonly id: string;
  readonly name: string;
  readonly role: OperatorRole;
  readonly hash: Uint8Array;
  readonly createdAtMs: number;
  readonly lifeMs: number | null;
  readonly endsAtMs: number | null;
  readonly revokedAtMs: number | null;
  readonly lastUsedAtMs: number | null;
  readonly lastUsedFrom: string | null;
}

/** A browser that is logged in to the console, as it is kept. */
export interface OperatorSessionRow {
  readonly id: string;
  readonly hash: Uint8Array;
  /** Key that it was begun with; null for the first one of the data folder. */
  readonly key: string | null;
  readonly csrf: string;
  readonly fromAddress: string;
  readonly agent: string;
  readonly createdAtMs: number;
  readonly lastUsedAtMs: number;
}

export type NewAuditEntry = Omit<AuditEntry, "seq">;

/** What is kept of operators: their keys, their sessions, and what they did. */
export interface OperatorStore {
  operatorKeys(): Promise<OperatorKeyRow[]>;
  /** Adds a key, or replaces what is kept of it. Resolves once that is durable. */
  putOperatorKey(row: OperatorKeyRow): Promise<void>;
  operatorSessions(): Promise<OperatorSessionRow[]>;
  putOperatorSession(row: OperatorSessionRow): Promise<void>;
  removeOperatorSession(id: string): Promise<void>;
  /** Resolves once the entry is durable. */
  addAudit(entry: NewAuditEntry, told?: NewWebhookEvent): Promise<void>;
  auditPage(query: AuditQuery): Promise<AuditPage>;
  /** Holds every entry against the sums. */
  checkAudit(): Promise<AuditCheck>;
  /** Removes the entries of before a time. Resolves to how many they were. */
  trimAudit(untilMs: number): Promise<number>;
}
