import { createHash, randomBytes, timingSafeEqual } from "node:crypto";
import type { CreatedKey, KeyId, KeyView, OperatorRole } from "@yellow-harbor/protocol";
import type { OperatorKeyRow, OperatorStore } from "../journal/operator-store.ts";

const DAY_MS = 86_400_000;
/** Last use is written down no more often than this. */
const USE_EVERY_MS = 60_000;
const FORM = /^yhk_([a-z0-9]{12})_([A-Za-z0-9_-]{43})$/;
const ID_ALPHABET = "abcdefghijklmnopqrstuvwxyz234567";

type Keeper = Pick<OperatorStore, "operatorKeys" | "putOperatorKey">;

export interface KeyHolder {
  readonly id: KeyId;
  readonly name: string;
  readonly role: OperatorRole;
}

/** Keys of operators. What is kept of one is the hash of its secret: whoever reads the data folder cannot use it. */
export class OperatorKeys {
  readonly #keeper: Keeper;
  readonly #byId: Map<KeyId, OperatorKeyRow>;
  readonly #now: () => number;

  private constructor(keeper: Keeper, rows: readonly OperatorKeyRow[], now: () => number) {
    this.#keeper = keeper;
    this.#byId = new Map(rows.map((row) => [row.id, row]));
    this.#now = now;
  }

  static async open(keeper: Keeper, now: () => number = Date.now): Promise<OperatorKeys> {
    return new OperatorKeys(keeper, await keeper.operatorKeys(), now);
  }

  list(): KeyView[] {
    return [...this.#byId.values()].sort((a, b) => a.createdAtMs - b.createdAtMs).map((row) => this.#view(row));
  }

  async create(name: string, role: OperatorRole, days?: number): Promise<CreatedKey> {
    const id = `k_${newId()}`;
    const secret = `yhk_${id.slice(2)}_${randomBytes(32).toString("base64url")}`;
    const createdAtMs = this.#now();
    const row: OperatorKeyRow = {
      id,
      name,
      role,
      createdAtMs,
      hash: hashOf(secret),
      lifeMs: days === undefined ? null : days * DAY_MS,
      endsAtMs: days === undefined ? null : createdAtMs + days * DAY_MS,
      revokedAtMs: null,
      lastUsedAtMs: null,
      lastUsedFrom: null,
    };
    await this.#put(row);
    return { key: this.#view(row), secret };
  }

  /** A key in the place of another, which still works for a while. Undefined when there is no such key, or it is worth nothing. */
  async rotate(id: KeyId, overlapMs: number): Promise<CreatedKey | undefined> {
    const old = this.#byId.get(id);
    if (old === undefined || this.#stateOf(old) !== "valid") return undefined;
    const created = await this.create(old.name, old.role, old.lifeMs === null ? undefined : old.lifeMs / DAY_MS);
    const endsAtMs = Math.min(this.#now() + overlapMs, old.endsAtMs ?? Number.MAX_SAFE_INTEGER);
    await this.#put({ ...old, endsAtMs });
    return created;
  }

  /** Undefined when there is no such key. */
  async revoke(id: KeyId): Promise<KeyView | undefined> {
    const row = this.#byId.get(id);
    if (row === undefined) return undefined;
    const revoked = { ...row, revokedAtMs: row.revokedAtMs ?? this.#now() };
    await this.#put(revoked);
    return this.#view(revoked);
  }

  /** What the holder of a secret may do; undefined when it is no key, or one that is worth nothing any more. */
  check(secret: string, from: string): KeyHolder | undefined {
    const [, short] = FORM.exec(secret) ?? [];
    const row = short === undefined ? undefined : this.#byId.get(`k_${short}`);
    // A made-up id takes as long as a right one.
    const isRight = timingSafeEqual(hashOf(secret), row?.hash ?? NO_HASH);
    if (row === undefined || !isRight || this.#stateOf(row) !== "valid") return undefined;
    this.#noteUse(row, from);
    const { id, name, role } = row;
    return { id, name, role };
  }

  /** Who has a key, as long as it can be used. */
  holder(id: KeyId): KeyHolder | undefined {
    const row = this.#byId.get(id);
    return row === undefined || this.#stateOf(row) !== "valid" ? undefined : { id, name: row.name, role: row.role };
  }

  #noteUse(row: OperatorKeyRow, from: string): void {
    const now = this.#now();
    if (now - (row.lastUsedAtMs ?? 0) < USE_EVERY_MS && row.lastUsedFrom === from) return;
    // A use that could not be written down is shown until the next start; the request need not wait for it.
    void this.#put({ ...row, lastUsedAtMs: now, lastUsedFrom: from }).catch(() => undefined);
  }

  async #put(row: OperatorKeyRow): Promise<void> {
    this.#byId.set(row.id, row);
    await this.#keeper.putOperatorKey(row);
  }

  #stateOf({ revokedAtMs, endsAtMs }: OperatorKeyRow): KeyView["state"] {
    if (revokedAtMs !== null) return "revoked";
    return endsAtMs !== null && endsAtMs <= this.#now() ? "ended" : "valid";
  }

  #view(row: OperatorKeyRow): KeyView {
    const { id, name, role, createdAtMs, endsAtMs, lastUsedAtMs, lastUsedFrom } = row;
    return {
      id,
      name,
      role,
      state: this.#stateOf(row),
      createdAtMs,
      ...(endsAtMs !== null && { endsAtMs }),
      ...(lastUsedAtMs !== null && { lastUsedAtMs }),
      ...(lastUsedFrom !== null && { lastUsedFrom }),
    };
  }
}

const NO_HASH = Buffer.alloc(32);
export const hashOf = (secret: string): Buffer => createHash("sha256").update(secret).digest();
export const newId = (): string => [...randomBytes(12)].map((byte) => ID_ALPHABET[byte % 32]).join("");
