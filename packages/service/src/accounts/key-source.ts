import { createPublicKey, createSecretKey, type KeyObject } from "node:crypto";
import { readFileSync } from "node:fs";
import { resolve } from "node:path";
import { createLocalJWKSet, createRemoteJWKSet, customFetch, type JSONWebKeySet, type JWTVerifyGetKey } from "jose";
import type { IssuerConfig } from "../config/accounts.ts";

/** Shortest shared secret, in bytes (RFC 7518, section 3.2, asks for as many as the hash has). */
const SECRET_MIN = 32;
const PATIENCE_MS = 3_000;
/** How long a key set counts as new. */
const FRESH_MS = 600_000;
/** An unknown key makes the set be read again, but no more often than this. */
const AGAIN_MS = 30_000;
/** Largest key set that is read, in bytes. */
const SET_MAX = 262_144;

/** What finds the key that a token was signed with. */
export type KeySource = KeyObject | JWTVerifyGetKey;

/** Keys of an issuer. Throws with what is wrong when a file cannot be used. */
export function keySourceOf(issuer: IssuerConfig, folder: string): KeySource {
  const { secretFile, publicKeyFile, jwksFile, jwksUrl } = issuer;
  const read = (file: string) => readFileSync(resolve(folder, file));
  if (secretFile !== undefined) return sharedSecret(read(secretFile));
  if (publicKeyFile !== undefined) return createPublicKey(read(publicKeyFile));
  if (jwksFile !== undefined) return createLocalJWKSet(JSON.parse(read(jwksFile).toString("utf8")) as JSONWebKeySet);
  return remoteKeys(new URL(jwksUrl ?? ""));
}

function sharedSecret(bytes: Buffer): KeyObject {
  // A line break at the end is the editor's.
  const secret = bytes.at(-1) === 0x0a ? bytes.subarray(0, bytes.at(-2) === 0x0d ? -2 : -1) : bytes;
  if (secret.length < SECRET_MIN) throw new Error(`has ${secret.length} bytes; expected ${SECRET_MIN} or more`);
  return createSecretKey(secret);
}

/** The set of an address. What was read last counts on while it cannot be read anew. */
function remoteKeys(url: URL): JWTVerifyGetKey {
  let lastGood: string | undefined;
  return createRemoteJWKSet(url, {
    timeoutDuration: PATIENCE_MS,
    cooldownDuration: AGAIN_MS,
    cacheMaxAge: FRESH_MS,
    [customFetch]: async (address, { headers, signal }) => {
      try {
        lastGood = await readSet(address, headers, signal);
      } catch (error) {
        if (lastGood === undefined) throw error;
      }
      return new Response(lastGood, { headers: { "content-type": "application/json" } });
    },
  });
}

/** Follows no redirect, and reads no more than a key set has. */
async function readSet(url: string, headers: Headers, signal: AbortSignal): Promise<string> {
  const response = await fetch(url, { headers, signal, redirect: "error" });
  if (response.status !== 200 || response.body === null) throw new Error(`answered ${response.status}`);
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of response.body) {
    size += part.length;
    if (size > SET_MAX) throw new Error(`is larger than ${SET_MAX} bytes`);
    parts.push(part);
  }
  const text = Buffer.concat(parts).toString("utf8");
  const { keys } = JSON.parse(text) as { keys?: unknown };
  if (!Array.isArray(keys)) throw new Error("is no key set");
  return text;
}
