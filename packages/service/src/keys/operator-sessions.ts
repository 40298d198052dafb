import { randomBytes, timingSafeEqual } from "node:crypto";
import type { LogInLink, SessionId } from "@yellow-harbor/protocol";
import type { OperatorSessionRow, OperatorStore } from "../journal/operator-store.ts";
import { hashOf, newId } from "./operator-keys.ts";

const LINK_MS = 600_000;
/** Last use is written down no more often than this. */
const USE_EVERY_MS = 60_000;
/** Most sessions of one key; with one more the one used longest ago ends. */
const PER_KEY_MAX = 20;
/** Most links that are open at once. */
const LINKS_MAX = 100;
const FORM = /^([a-z0-9]{12})\.([A-Za-z0-9_-]{43})$/;
const AGENT_MAX = 120;

type Keeper = Pick<OperatorStore, "operatorSessions" | "putOperatorSession" | "removeOperatorSession">;

export interface SessionLimits {
  readonly idleMs: number;
  readonly maxMs: number;
}

/** Key that a session is as good as: null for the first one of the data folder. */
type KeyOf = string | null;

/** Browsers that are logged in. What is kept of one is the hash of its cookie. */
export class OperatorSessions {
  readonly #keeper: Keeper;
  readonly #byId: Map<SessionId, OperatorSessionRow>;
  readonly #limits: SessionLimits;
  readonly #now: () => number;
  /** Open links, by the hash of their code. They are gone with the process. */
  readonly #links = new Map<string, { readonly key: KeyOf; readonly untilMs: number }>();

  private constructor(keeper: Keeper, rows: readonly OperatorSessionRow[], limits: SessionLimits, now: () => number) {
    this.#keeper = keeper;
    this.#byId = new Map(rows.map((row) => [row.id, row]));
    this.#limits = limits;
    this.#now = now;
  }

  static async open(keeper: Keeper, limits: SessionLimits, now: () => number = Date.now): Promise<OperatorSessions> {
    return new OperatorSessions(keeper, await keeper.operatorSessions(), limits, now);
  }

  /** Begins a session. The cookie is what it answers, this once. */
  async begin(key: KeyOf, from: string, agent: string): Promise<{ cookie: string; session: OperatorSessionRow }> {
    await this.#makeRoom(key);
    const id = `s_${newId()}`;
    const secret = randomBytes(32).toString("base64url");
    const now = this.#now();
    const session: OperatorSessionRow = {
      id,
      hash: hashOf(secret),
      key,
      csrf: randomBytes(24).toString("base64url"),
      fromAddress: from,
      agent: agent.replace(/[^\x20-\x7e]/g, "").slice(0, AGENT_MAX),
      createdAtMs: now,
      lastUsedAtMs: now,
    };
    this.#byId.set(id, session);
    await this.#keeper.putOperatorSession(session);
    return { cookie: `${id.slice(2)}.${secret}`, session };
  }

  /** The session of a cookie, while it lasts. */
  check(cookie: string): OperatorSessionRow | undefined {
    const [, short, secret = ""] = FORM.exec(cookie) ?? [];
    const row = short === undefined ? undefined : this.#byId.get(`s_${short}`);
    const isRight = timingSafeEqual(hashOf(secret), row?.hash ?? NO_HASH);
    if (row === undefined || !isRight || this.#isOver(row)) return undefined;
    const now = this.#now();
    if (now - row.lastUsedAtMs < USE_EVERY_MS) return row;
    const used = { ...row, lastUsedAtMs: now };
    this.#byId.set(row.id, used);
    // A use that could not be written down ends the session earlier, at the worst.
    void this.#keeper.putOperatorSession(used).catch(() => undefined);
    return used;
  }

  /** Sessions that last, the newest first. */
  list(): readonly OperatorSessionRow[] {
    return [...this.#byId.values()].filter((row) => !this.#isOver(row)).sort((a, b) => b.createdAtMs - a.createdAtMs);
  }

  lasts(id: SessionId): boolean {
    const row = this.#byId.get(id);
    return row !== undefined && !this.#isOver(row);
  }

  async end(id: SessionId): Promise<void> {
    this.#byId.delete(id);
    await this.#keeper.removeOperatorSession(id);
  }

  /** When a session ends at the latest. */
  endsAtMs({ createdAtMs, lastUsedAtMs }: OperatorSessionRow): number {
    return Math.min(createdAtMs + this.#limits.maxMs, lastUsedAtMs + this.#limits.idleMs);
  }

  /** A code that is as good as the key for one log-in. */
  link(key: KeyOf): LogInLink {
    const now = this.#now();
    for (const [hash, { untilMs }] of this.#links) if (untilMs <= now) this.#links.delete(hash);
    const [oldest] = this.#links.keys();
    if (this.#links.size >= LINKS_MAX && oldest !== undefined) this.#links.delete(oldest);
    const code = randomBytes(24).toString("base64url");
    const untilMs = now + LINK_MS;
    this.#links.set(hashOf(code).toString("hex"), { key, untilMs });
    return { code, untilMs };
  }

  /** Uses a code up. Undefined when it is none that is open. */
  redeem(code: string): { readonly key: KeyOf } | undefined {
    const hash = hashOf(code).toString("hex");
    const link = this.#links.get(hash);
    this.#links.delete(hash);
    return link === undefined || link.untilMs <= this.#now() ? undefined : { key: link.key };
  }

  #isOver(row: OperatorSessionRow): boolean {
    return this.endsAtMs(row) <= this.#now();
  }

  async #makeRoom(key: KeyOf): Promise<void> {
    const over = [...this.#byId.values()].filter((row) => this.#isOver(row));
    const own = this.list().filter((row) => row.key === key);
    const idle = own.sort((a, b) => b.lastUsedAtMs - a.lastUsedAtMs).slice(PER_KEY_MAX - 1);
    for (const { id } of [...over, ...idle]) await this.end(id);
  }
}

const NO_HASH = Buffer.alloc(32);
