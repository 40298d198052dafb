import { createHmac, createSecretKey, type KeyObject, webcrypto } from "node:crypto";
import type { OwedPass } from "@yellow-harbor/core";
import {
  type BoardingPass,
  type ConfigName,
  type InstanceId,
  type PassId,
  type PlayerId,
  RELAY_PATH,
  type RunId,
} from "@yellow-harbor/protocol";

/** Looks at tokens. Loaded with the first one that is shown: a service need not wait for it to be ready. */
const jose = () => import("jose");

/** What a token is for (the `aud` allocation, RFC 7519, section 4.1.3). A token of one use is worth nothing for another. */
type Use = "resume" | "instance" | "board" | "agent";

export type PassCheck =
  | {
      readonly ok: true;
      readonly player: PlayerId;
      readonly pass: PassId;
      readonly run: RunId;
      readonly level: ConfigName | undefined;
    }
  | { readonly ok: false; readonly code: "pass-invalid" | "pass-expired" | "pass-foreign" };

const base64url = (value: object) => Buffer.from(JSON.stringify(value)).toString("base64url");
const HEADER = base64url({ alg: "HS256" });

const DAY_S = 86_400;

const KNOWN_KEYS_MAX = 10_000;

/** Signs and checks all tokens with the harbor's secret: compact JWS, HS256 (RFC 7515, RFC 7518). */
export class Tokens {
  readonly #secret: KeyObject;
  readonly #issuer: string;
  readonly #now: () => number;
  readonly #relays: boolean;
  readonly #raw: Uint8Array;
  /** The secret as tokens are checked by it: what is made of it once costs a fifth of what it costs each time. */
  #checkedBy: Promise<webcrypto.CryptoKey> | undefined;
  /** Instance keys that were found right. */
  readonly #instanceKeys = new Map<string, InstanceId>();

  /** `now` is the harbor's time, by which passes were given their end; `relays` has passes tell the way through the service. */
  constructor(secret: Uint8Array, harbor: string, now: () => number, { relays = false } = {}) {
    this.#relays = relays;
    this.#raw = secret;
    this.#secret = createSecretKey(secret);
    this.#issuer = `yellow-harbor:${harbor}`;
    this.#now = now;
  }

  /** Good for some days, as long as the player is known, and until a token of a higher number was shown. */
  signResume(player: PlayerId, number: number, days: number): Promise<string> {
    return this.#sign("resume", player, { n: number, exp: Math.ceil(this.#now() / 1_000) + days * DAY_S });
  }

  async checkResume(token: string): Promise<{ readonly player: PlayerId; readonly number: number } | undefined> {
    const { sub: player, n: number } = (await this.#verify("resume", token)) ?? {};
    return player === undefined || typeof number !== "number" ? undefined : { player, number };
  }

  /** Stands for something that must not be known from it: the same for the same, as long as the secret is. */
  pseudonym(of: "device" | "network", text: string): string {
    return createHmac("sha256", this.#secret).update(`${of}:${text}`).digest("base64url").slice(0, 22);
  }

  signInstanceKey(instance: InstanceId): Promise<string> {
    return this.#sign("instance", instance, {});
  }

  /** Keys do not expire and come with every call of an instance, so each is looked at once. */
  async checkInstanceKey(token: string): Promise<InstanceId | undefined> {
    const known = this.#instanceKeys.get(token);
    if (known !== undefined) return known;
    const instance = (await this.#verify("instance", token))?.sub;
    if (instance === undefined) return undefined;
    if (this.#instanceKeys.size >= KNOWN_KEYS_MAX) this.#instanceKeys.clear();
    this.#instanceKeys.set(token, instance);
    return instance;
  }

  /** For the agent of one machine; good for so many days. */
  signAgentToken(machine: ConfigName, days: number): Promise<string> {
    const iat = Math.floor(this.#now() / 1_000);
    return this.#sign("agent", machine, { iat, exp: iat + days * DAY_S });
  }

  /** The machine of a token, and when that was made. */
  async checkAgentToken(
    token: string,
  ): Promise<{ readonly machine: ConfigName; readonly madeAtMs: number } | undefined> {
    const { sub: machine, iat } = (await this.#verify("agent", token)) ?? {};
    return machine === undefined ? undefined : { machine, madeAtMs: (iat ?? 0) * 1_000 };
  }

  async signPass(owed: OwedPass): Promise<BoardingPass> {
    const { pass: jti, player, to, room, run, level, address, expiresAtMs } = owed;
    // The `exp` allocation has whole seconds (RFC 7519, section 2); rounding up never cuts a pass short.
    const exp = Math.ceil(expiresAtMs / 1000);
    // Who runs a world has an id of another form than an instance, so one allocation is enough for both.
    const instance = "instance" in to ? to.instance : to.player;
    const pass = await this.#sign("board", player, { jti, instance, run, level, exp });
    const relay = "instance" in to && this.#relays ? { relay: `${RELAY_PATH}${to.instance}` } : {};
    return { room, run, level, ...to, address, ...relay, pass, expiresAtMs };
  }

  /** Whether a pass is ours, in time and for this instance, or member who runs a world. Whether it was used only the harbor knows. */
  async checkPass(token: string, at: InstanceId | PlayerId): Promise<PassCheck> {
    const { errors, jwtVerify } = await jose();
    try {
      const { payload } = await jwtVerify<{ instance: string; run: RunId; level?: ConfigName }>(
        token,
        await this.#checkKey(),
        this.#expect("board"),
      );
      if (payload.instance !== at) return { ok: false, code: "pass-foreign" };
      const { sub = "", jti = "", run, level } = payload;
      return { ok: true, player: sub, pass: jti, run, level };
    } catch (error) {
      return { ok: false, code: error instanceof errors.JWTExpired ? "pass-expired" : "pass-invalid" };
    }
  }

  /** RFC 7515, section 3.1, by Node's own HMAC: a start waits for the passes of a whole room, and this takes none of that time. */
  async #sign(use: Use, subject: string, allocations: Record<string, unknown>): Promise<string> {
    const payload = { ...allocations, sub: subject, iss: this.#issuer, aud: use };
    const signed = `${HEADER}.${base64url(payload)}`;
    return `${signed}.${createHmac("sha256", this.#secret).update(signed).digest("base64url")}`;
  }

  async #verify(use: Use, token: string) {
    const { jwtVerify } = await jose();
    try {
      return (await jwtVerify(token, await this.#checkKey(), this.#expect(use))).payload;
    } catch {
      return undefined;
    }
  }

  #checkKey(): Promise<webcrypto.CryptoKey> {
    this.#checkedBy ??= webcrypto.subtle.importKey("raw", this.#raw, { name: "HMAC", hash: "SHA-256" }, false, [
      "verify",
    ]);
    return this.#checkedBy;
  }

  #expect(use: Use) {
    return { audience: use, issuer: this.#issuer, algorithms: ["HS256"], currentDate: new Date(this.#now()) };
  }
}
