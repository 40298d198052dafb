import { createHmac, createSecretKey, type KeyObject, timingSafeEqual } from "node:crypto";
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

/** What a token is for (the `aud` allocation, RFC 7519, section 4.1.3). A token of one use is worth nothing for another. */
type Use = "resume" | "instance" | "board" | "agent" | "machine-group";

export type PassCheck =
  | {
      readonly ok: true;
      readonly player: PlayerId;
      readonly pass: PassId;
      readonly run: RunId;
      readonly level: ConfigName | undefined;
    }
  | { readonly ok: false; readonly code: "pass-invalid" | "pass-expired" | "pass-foreign" };

/** What is in tokens (RFC 7519, section 4.1, and what we add). */
interface Claims {
  readonly sub: string;
  readonly iss: string;
  readonly aud: string;
  readonly exp?: number;
  readonly iat?: number;
  readonly jti?: PassId;
  /** Number of a resume token. */
  readonly n?: number;
  readonly instance?: string;
  readonly run?: RunId;
  readonly level?: ConfigName;
}

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
  /** Instance keys that were found right. */
  readonly #instanceKeys = new Map<string, InstanceId>();

  /** `now` is the harbor's time, by which passes were given their end; `relays` has passes tell the way through the service. */
  constructor(secret: Uint8Array, harbor: string, now: () => number, { relays = false } = {}) {
    this.#relays = relays;
    this.#secret = createSecretKey(secret);
    this.#issuer = `yellow-harbor:${harbor}`;
    this.#now = now;
  }

  /** Good for some days, as long as the player is known, and until a token of a higher number was shown. */
  signResume(player: PlayerId, number: number, days: number): Promise<string> {
    return this.#sign("resume", player, { n: number, exp: Math.ceil(this.#now() / 1_000) + days * DAY_S });
  }

  checkResume(token: string): { readonly player: PlayerId; readonly number: number } | undefined {
    const claims = this.#verify("resume", token);
    return typeof claims === "string" || claims.n === undefined ? undefined : { player: claims.sub, number: claims.n };
  }

  /** Stands for something that must not be known from it: the same for the same, as long as the secret is. */
  pseudonym(of: "device" | "network", text: string): string {
    return createHmac("sha256", this.#secret).update(`${of}:${text}`).digest("base64url").slice(0, 22);
  }

  /** A sum over a text, keyed with the secret of the service. */
  keyedSum(of: "password" | "waiting", text: string): Buffer {
    return createHmac("sha256", this.#secret).update(`${of}:${text}`).digest();
  }

  signInstanceKey(instance: InstanceId): Promise<string> {
    return this.#sign("instance", instance, {});
  }

  /** Keys do not expire and come with every call of an instance, so each is looked at once. */
  checkInstanceKey(token: string): InstanceId | undefined {
    const known = this.#instanceKeys.get(token);
    if (known !== undefined) return known;
    const claims = this.#verify("instance", token);
    if (typeof claims === "string") return undefined;
    const instance = claims.sub;
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
  checkAgentToken(token: string): { readonly machine: ConfigName; readonly madeAtMs: number } | undefined {
    const claims = this.#verify("agent", token);
    return typeof claims === "string" ? undefined : { machine: claims.sub, madeAtMs: (claims.iat ?? 0) * 1_000 };
  }

  /** With it machines join a group, each under a name of its own. */
  signGroupToken(group: ConfigName, days: number): Promise<string> {
    const iat = Math.floor(this.#now() / 1_000);
    return this.#sign("machine-group", group, { iat, exp: iat + days * DAY_S });
  }

  /** The group of a token, and when that was made. */
  checkGroupToken(token: string): { readonly group: ConfigName; readonly madeAtMs: number } | undefined {
    const claims = this.#verify("machine-group", token);
    return typeof claims === "string" ? undefined : { group: claims.sub, madeAtMs: (claims.iat ?? 0) * 1_000 };
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
  checkPass(token: string, at: InstanceId | PlayerId): PassCheck {
    const claims = this.#verify("board", token);
    if (claims === "expired") return { ok: false, code: "pass-expired" };
    if (claims === "invalid") return { ok: false, code: "pass-invalid" };
    const { instance, sub, jti = "", run = "", level } = claims;
    if (instance !== at) return { ok: false, code: "pass-foreign" };
    return { ok: true, player: sub, pass: jti, run, level };
  }

  /** RFC 7515, section 3.1, by Node's own HMAC: a start waits for the passes of a whole room, and this takes none of that time. */
  async #sign(use: Use, subject: string, allocations: Record<string, unknown>): Promise<string> {
    const payload = { ...allocations, sub: subject, iss: this.#issuer, aud: use };
    const signed = `${HEADER}.${base64url(payload)}`;
    return `${signed}.${this.#signatureOf(signed)}`;
  }

  #signatureOf(signed: string): string {
    return createHmac("sha256", this.#secret).update(signed).digest("base64url");
  }

  /**
   * What a token says that is ours and for this use, or why it is worth nothing. Only what is made here is taken: the header is
   * held against ours as a text, so that no token chooses how it is checked (RFC 8725, section 3.1).
   */
  #verify(use: Use, token: string): Claims | "invalid" | "expired" {
    const [header = "", payload = "", signature = "", ...more] = token.split(".");
    if (header !== HEADER || more.length > 0) return "invalid";
    // As texts: of the many ways to write the same bytes only ours counts.
    const expected = Buffer.from(this.#signatureOf(`${header}.${payload}`));
    const shown = Buffer.from(signature);
    if (shown.length !== expected.length || !timingSafeEqual(shown, expected)) return "invalid";
    // Signed by us, so it is what we made; another harbor of the same secret, or another use, is told apart by its claims.
    const claims = JSON.parse(Buffer.from(payload, "base64url").toString("utf8")) as Claims;
    if (claims.iss !== this.#issuer || claims.aud !== use) return "invalid";
    return claims.exp !== undefined && claims.exp <= this.#now() / 1_000 ? "expired" : claims;
  }
}
