import { createHash } from "node:crypto";
import type { Identity, UsedToken } from "@yellow-harbor/core";
import {
  AccountId,
  BLOCKED_MAX,
  BlockedAccounts,
  type ConfigName,
  DisplayName,
  FRIENDS_MAX,
  Friends,
  type Problem,
  type ProblemCode,
  problem,
  type SetRelations,
  SettingValue,
} from "@yellow-harbor/protocol";
import { decodeJwt, errors, type JWTPayload, jwtVerify } from "jose";
import { z } from "zod";
import type { AccountsConfig, IssuerConfig } from "../config/accounts.ts";
import { type KeySource, keySourceOf } from "./key-source.ts";

/** What a good token says. */
export interface Vouched {
  readonly identity: Identity;
  /** Whom it knows and has blocked. */
  readonly relations?: SetRelations;
  readonly name?: string;
  /** When it is good for one use. */
  readonly token?: UsedToken;
}

export type AccountCheck = Vouched | { readonly refused: Problem };

interface KnownIssuer extends IssuerConfig {
  readonly as: ConfigName;
  readonly keys: KeySource;
}

/** Roles that one token may name, and how long each may be. */
const Roles = z.array(z.string().min(1).max(64)).max(16);
const AttributeClaim = z.union([SettingValue, z.array(z.string().max(200)).max(32)]);

const REMEDY = "get a new one from the game's back end";

/** Account tokens of the game's own back ends (RFC 7519), each checked by the rules of its issuer. */
export class AccountTokens {
  readonly #issuers: ReadonlyMap<string, KnownIssuer>;
  readonly #now: () => number;

  /** Throws when a file of keys cannot be used. */
  constructor({ issuers }: AccountsConfig, folder: string, now: () => number) {
    const known = Object.entries(issuers).map(
      ([as, issuer]) => [issuer.issuer, { ...issuer, as, keys: keySourceOf(issuer, folder) }] as const,
    );
    this.#issuers = new Map(known);
    this.#now = now;
  }

  /** Who a token speaks for, or why it is not accepted: never which check of its signature failed. */
  async check(token: string): Promise<AccountCheck> {
    if (this.#issuers.size === 0) {
      const detail = "No issuer of account tokens is configured here; leave account out and come as a guest.";
      return refusedWith("accounts-off", detail);
    }
    const issuer = this.#issuers.get(issuerIn(token) ?? "");
    if (issuer === undefined)
      return refusedWith("account-token-foreign", "The token is of no issuer that is known here.");
    const verified = await this.#verify(token, issuer);
    return "refused" in verified ? verified : vouchedBy(verified.payload, issuer);
  }

  async #verify(
    token: string,
    { keys, issuer, audience, algorithms, clockSkewS, maxAgeS }: KnownIssuer,
  ): Promise<{ readonly payload: JWTPayload } | { readonly refused: Problem }> {
    const rules = {
      issuer,
      audience,
      algorithms,
      clockTolerance: clockSkewS,
      currentDate: new Date(this.#now()),
      ...(maxAgeS === undefined ? { requiredClaims: ["exp"] } : { maxTokenAge: maxAgeS }),
    };
    try {
      return typeof keys === "function" ? await jwtVerify(token, keys, rules) : await jwtVerify(token, keys, rules);
    } catch (error) {
      return refusalFor(error);
    }
  }
}

/** The issuer that a token names. It decides by whose rules the token is checked, and nothing else. */
function issuerIn(token: string): string | undefined {
  try {
    return decodeJwt(token).iss;
  } catch {
    return undefined;
  }
}

const refusedWith = (code: ProblemCode, detail: string) => ({ refused: problem(code, detail) });

function refusalFor(error: unknown): { readonly refused: Problem } {
  if (error instanceof errors.JWTExpired) {
    return error.claim === "iat"
      ? refusedWith("account-token-expired", `The account token is older than is accepted here; ${REMEDY}.`)
      : refusedWith("account-token-expired", `The account token has expired; ${REMEDY}.`);
  }
  if (error instanceof errors.JWTClaimValidationFailed) {
    const { claim, reason } = error;
    if (reason === "missing") return missingClaim(claim);
    if (claim === "nbf" || claim === "iat") {
      return refusedWith(
        "account-token-early",
        "The account token is not valid yet; look at the clocks of both sides.",
      );
    }
    if (claim === "aud" || claim === "iss") {
      return refusedWith("account-token-foreign", "The account token is for another service.");
    }
  }
  if (error instanceof errors.JWKSTimeout || isUnreachable(error)) {
    const detail = "The keys of the account tokens cannot be read at the moment; try again in a few seconds.";
    return refusedWith("account-keys-unavailable", detail);
  }
  return refusedWith("account-token-invalid", `The account token is not valid here; ${REMEDY}.`);
}

/** Whatever is no error of jose came from reading the key set; so did its own of a set that is none. */
const isUnreachable = (error: unknown) =>
  !(error instanceof errors.JOSEError) ||
  error instanceof errors.JWKSInvalid ||
  (error.code === "ERR_JOSE_GENERIC" && /JSON Web Key Set/.test(error.message));

const missingClaim = (claim: string) =>
  refusedWith("account-claim-missing", `The account token has no claim ${claim}, which is needed here.`);

const unfitClaim = (claim: string, expected: string) =>
  refusedWith("account-claim-missing", `The claim ${claim} of the account token is not as expected: ${expected}.`);

/** What a verified token says, by the claims that the configuration names. */
function vouchedBy(payload: JWTPayload, issuer: KnownIssuer): AccountCheck {
  const { as, claims, useOnce } = issuer;
  const subject = payload[claims.account];
  if (subject === undefined) return missingClaim(claims.account);
  const isNamed = typeof subject === "string" || Number.isSafeInteger(subject);
  const account = AccountId.safeParse(`${as}:${isNamed ? subject : ""}`);
  if (!account.success) return unfitClaim(claims.account, "1 to 128 printable ASCII characters, or a whole number");
  const roles = Roles.safeParse(claims.roles === undefined ? [] : (payload[claims.roles] ?? []));
  if (!roles.success) return unfitClaim(claims.roles ?? "", "a list of at most 16 texts");
  const vouched = attributesIn(payload, claims.attributes);
  if ("refused" in vouched) return vouched;
  const relations = relationsIn(payload, issuer);
  if ("refused" in relations) return relations;
  const name = claims.name === undefined ? undefined : payload[claims.name];
  const shown = name === undefined ? undefined : DisplayName.safeParse(name);
  if (shown?.success === false) return unfitClaim(claims.name ?? "", "a name of 1 to 32 visible characters");
  if (useOnce && payload.jti === undefined) return missingClaim("jti");
  return {
    identity: { account: account.data, roles: roles.data, vouched: vouched.attributes },
    ...(relations.told && { relations: relations.told }),
    ...(shown && { name: shown.data }),
    ...(useOnce && { token: usedToken(payload, issuer) }),
  };
}

/** The accounts of the same issuer that a claim names, each as it stands in the account claim of its own token. */
function relationsIn(payload: JWTPayload, { as, claims }: KnownIssuer) {
  const told: { friends?: AccountId[]; blocked?: AccountId[] } = {};
  for (const [of, schema, max] of [
    ["friends", Friends, FRIENDS_MAX],
    ["blocked", BlockedAccounts, BLOCKED_MAX],
  ] as const) {
    const claim = claims[of];
    if (claim === undefined || payload[claim] === undefined) continue;
    const ids = z.array(z.union([z.string(), z.int()])).safeParse(payload[claim]);
    const accounts = schema.safeParse(ids.data?.map((id) => `${as}:${id}`));
    if (!accounts.success) return unfitClaim(claim, `a list of at most ${max} ids of accounts`);
    told[of] = accounts.data;
  }
  return { told: Object.keys(told).length === 0 ? undefined : told };
}

function attributesIn(payload: JWTPayload, named: Readonly<Record<string, string>>) {
  const attributes: Record<string, z.output<typeof AttributeClaim>> = {};
  for (const [attribute, claim] of Object.entries(named)) {
    if (payload[claim] === undefined) continue;
    const value = AttributeClaim.safeParse(payload[claim]);
    if (!value.success) return unfitClaim(claim, "a text, a number, true or false, or a list of texts");
    attributes[attribute] = value.data;
  }
  return { attributes };
}

/** By its own name among those of its issuer, and as long as it could be shown again. */
function usedToken({ jti, exp, iat }: JWTPayload, { as, clockSkewS, maxAgeS }: KnownIssuer): UsedToken {
  const never = Number.MAX_SAFE_INTEGER / 1_000_000;
  const byAge = iat === undefined || maxAgeS === undefined ? never : iat + maxAgeS;
  const untilMs = (Math.min(exp ?? never, byAge) + clockSkewS) * 1_000;
  return { id: createHash("sha256").update(`${as}:${jti}`).digest("base64url").slice(0, 22), untilMs };
}
