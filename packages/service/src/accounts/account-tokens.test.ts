import { createHmac, generateKeyPairSync, type KeyObject } from "node:crypto";
import { once } from "node:events";
import { writeFileSync } from "node:fs";
import { createServer, type RequestListener, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { exportJWK, type JWTPayload, SignJWT } from "jose";
import { afterEach, describe, expect, it } from "vitest";
import { Accounts, type IssuerConfig } from "../config/accounts.ts";
import { endAll, temporaryFolder } from "../testing/test-service.ts";
import { AccountTokens } from "./account-tokens.ts";

const servers: Server[] = [];
afterEach(async () => {
  for (const server of servers.splice(0)) server.close().closeAllConnections();
  await endAll();
});

const NOW_S = 1_900_000_000;
const SECRET = "a shared secret of the game's back end";
const rsa = generateKeyPairSync("rsa", { modulusLength: 2048 });
const pem = rsa.publicKey.export({ type: "spki", format: "pem" }).toString();
const claims: JWTPayload = { iss: "https://game.example", aud: "harbor", sub: "4711", exp: NOW_S + 60 };

type Input = Partial<Record<keyof IssuerConfig, unknown>>;

/** The checks of one issuer, whose files are written first. */
function checks(issuer: Input, now: () => number = () => NOW_S * 1_000): AccountTokens {
  const folder = temporaryFolder();
  writeFileSync(join(folder, "secret"), `${SECRET}\n`);
  writeFileSync(join(folder, "public.pem"), pem);
  const base = { issuer: "https://game.example", audience: "harbor" };
  return new AccountTokens(Accounts.parse({ issuers: { game: { ...base, ...issuer } } }), folder, now);
}
const shared = (more: Input = {}, now?: () => number) =>
  checks({ algorithms: ["HS256"], secretFile: "secret", ...more }, now);
const withKey = (more: Input = {}) => checks({ algorithms: ["RS256"], publicKeyFile: "public.pem", ...more });

const signed = (payload: JWTPayload, header: { alg?: string; kid?: string } = {}, key?: KeyObject) =>
  new SignJWT(payload).setProtectedHeader({ alg: "HS256", ...header }).sign(key ?? Buffer.from(SECRET));
const byRsa = (payload: JWTPayload, kid?: string, key = rsa.privateKey) =>
  signed(payload, { alg: "RS256", ...(kid !== undefined && { kid }) }, key);

async function codeOf(tokens: AccountTokens, token: string): Promise<string> {
  const check = await tokens.check(token);
  return "refused" in check ? check.refused.code : check.identity.account;
}

describe("an account token", () => {
  it("tells the account, and what the configuration names of its claims", async () => {
    const tokens = shared({
      claims: { name: "nick", roles: "roles", attributes: { skill: "rank", region: "zone" } },
    });
    const token = await signed({ ...claims, nick: "Ansel", roles: ["moderator"], rank: 12, zone: ["north", "west"] });
    expect(await tokens.check(token)).toEqual({
      identity: { account: "game:4711", roles: ["moderator"], vouched: { skill: 12, region: ["north", "west"] } },
      name: "Ansel",
    });
    expect(await codeOf(withKey(), await byRsa({ ...claims, sub: "x" }))).toBe("game:x");
  });

  it.each<[what: string, payload: JWTPayload, code: string]>([
    ["has expired", { ...claims, exp: NOW_S - 6 }, "account-token-expired"],
    ["is within the skew of the clocks", { ...claims, exp: NOW_S - 4 }, "game:4711"],
    ["has no end", { ...claims, exp: undefined } as unknown as JWTPayload, "account-claim-missing"],
    ["is early", { ...claims, nbf: NOW_S + 6 }, "account-token-early"],
    ["is of another issuer", { ...claims, iss: "https://other.example" }, "account-token-foreign"],
    ["is of no issuer", { ...claims, iss: undefined } as unknown as JWTPayload, "account-token-foreign"],
    ["is for another audience", { ...claims, aud: ["shop", "forum"] }, "account-token-foreign"],
    ["is for several audiences", { ...claims, aud: ["shop", "harbor"] }, "game:4711"],
    ["has no account", { ...claims, sub: undefined } as unknown as JWTPayload, "account-claim-missing"],
    ["has an account with a line break", { ...claims, sub: "a\nb" }, "account-claim-missing"],
    ["has a very long account", { ...claims, sub: "x".repeat(129) }, "account-claim-missing"],
    ["has an account that is no text", { ...claims, sub: { a: 1 } as unknown as string }, "account-claim-missing"],
  ])("that %s is judged by that", async (_what, payload, code) => {
    expect(await codeOf(shared(), await signed(payload))).toBe(code);
  });

  it("may be too old, by the claim that says since when it is", async () => {
    const tokens = shared({ maxAgeS: 300 });
    expect(await codeOf(tokens, await signed({ ...claims, iat: NOW_S - 306 }))).toBe("account-token-expired");
    expect(await codeOf(tokens, await signed({ ...claims, iat: NOW_S - 299 }))).toBe("game:4711");
    expect(await codeOf(tokens, await signed({ ...claims, iat: NOW_S + 60 }))).toBe("account-token-early");
    expect(await codeOf(tokens, await signed(claims))).toBe("account-claim-missing");
  });

  it("that is good for one use says so, with how long that has to be remembered", async () => {
    const tokens = shared({ useOnce: true });
    expect(await codeOf(tokens, await signed(claims))).toBe("account-claim-missing");
    const check = await tokens.check(await signed({ ...claims, jti: "once" }));
    expect(check).toMatchObject({ token: { id: expect.stringMatching(/^[\w-]{22}$/), untilMs: (NOW_S + 65) * 1_000 } });
  });

  it("says the same whatever is wrong with its signature", async () => {
    const tokens = shared();
    const token = await signed(claims);
    const [head = "", body = "", mac = ""] = token.split(".");
    const part = (value: object) => Buffer.from(JSON.stringify(value)).toString("base64url");
    const by = (header: object, key: string | Buffer) => {
      const text = `${part(header)}.${body}`;
      return `${text}.${createHmac("sha256", key).update(text).digest("base64url")}`;
    };
    const bad = [
      `${part({ alg: "none" })}.${body}.`,
      `${part({ alg: "None" })}.${body}.`,
      `${part({ alg: "HS256" })}.${body}.`,
      `${head}.${part({ ...claims, sub: "admin" })}.${mac}`,
      by({ alg: "HS256" }, "another secret of somebody else, long enough"),
      by({ alg: "HS512" }, SECRET),
      by({ alg: "HS256", crit: ["b64"], b64: false }, SECRET),
      `${token}x`,
    ];
    const said = await Promise.all(bad.map((one) => tokens.check(one)));
    expect(new Set(said.map((one) => JSON.stringify(one))).size).toBe(1);
    expect(said[0]).toMatchObject({ refused: { code: "account-token-invalid" } });
    expect(JSON.stringify(said)).not.toContain(SECRET);
  });

  it("signed with the public key as if that were a shared secret is worth nothing", async () => {
    const confused = await new SignJWT(claims).setProtectedHeader({ alg: "HS256" }).sign(Buffer.from(pem));
    expect(await codeOf(withKey(), confused)).toBe("account-token-invalid");
    expect(() => withKey({ algorithms: ["RS256", "HS256"] })).toThrow(/HS256 does not go with publicKeyFile/);
    expect(() => shared({ algorithms: ["RS256"] })).toThrow(/RS256 does not go with secretFile/);
  });

  it("is taken from nobody where no issuer is configured", async () => {
    const none = new AccountTokens(Accounts.parse({}), ".", Date.now);
    expect(await codeOf(none, await signed(claims))).toBe("accounts-off");
  });
});

/** Serves a key set, or what else is told, and counts how often it was asked. */
async function serveKeys(
  answer: RequestListener,
): Promise<{ url: string; asked: () => number; answer: (next: RequestListener) => void }> {
  let [count, now] = [0, answer];
  const server = createServer((request, response) => {
    count += 1;
    now(request, response);
  });
  servers.push(server.listen(0, "127.0.0.1"));
  await once(server, "listening");
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/keys.json`;
  return { url, asked: () => count, answer: (next) => (now = next) };
}

const json =
  (value: object): RequestListener =>
  (_request, response) =>
    void response.end(JSON.stringify(value));

describe("a key set at an address", () => {
  const keysOf = async (kid: string, key = rsa.publicKey) => ({
    keys: [{ ...(await exportJWK(key)), kid, alg: "RS256" }],
  });
  const remote = (jwksUrl: string) => checks({ algorithms: ["RS256"], jwksUrl });

  it("is read once for many tokens; those with a key of no set, or of another, are refused", async () => {
    const served = await serveKeys(json(await keysOf("one")));
    const tokens = remote(served.url);
    const many = await Promise.all(Array.from({ length: 20 }, async () => codeOf(tokens, await byRsa(claims, "one"))));
    expect(new Set(many)).toEqual(new Set(["game:4711"]));
    expect(served.asked()).toBe(1);
    const other = generateKeyPairSync("rsa", { modulusLength: 2048 }).privateKey;
    expect(await codeOf(tokens, await byRsa(claims, "one", other))).toBe("account-token-invalid");
    for (const kid of ["two", "../../etc/passwd", "one' OR 1=1", "x".repeat(2_000)]) {
      expect(await codeOf(tokens, await byRsa(claims, kid)), kid).toBe("account-token-invalid");
    }
    // Tokens that anybody can make up do not have it asked again and again.
    expect(served.asked()).toBeLessThanOrEqual(2);
  });

  it.each<[what: string, answer: RequestListener]>([
    ["is not there", (_request, response) => void response.writeHead(404).end()],
    [
      "leads elsewhere",
      (_request, response) => void response.writeHead(302, { location: "http://127.0.0.1:1/" }).end(),
    ],
    ["is no key set", json({ hello: "world" })],
    ["is no JSON", (_request, response) => void response.end("<html>")],
    [
      "is larger than any key set",
      (_request, response) => {
        // A hundred megabytes, if anybody read them.
        const part = Buffer.alloc(65_536, " ");
        let sent = 0;
        const more = () => {
          while (sent < 1_600 && !response.destroyed) {
            sent += 1;
            if (!response.write(part)) return;
          }
          response.end();
        };
        response.on("drain", more);
        more();
      },
    ],
  ])("that %s makes tokens wait, with a code that says to try again", async (_what, answer) => {
    const served = await serveKeys(answer);
    expect(await codeOf(remote(served.url), await byRsa(claims, "one"))).toBe("account-keys-unavailable");
  });

  it("that hangs is given up, and one that nobody serves at once", async () => {
    const served = await serveKeys(() => undefined);
    expect(await codeOf(remote(served.url), await byRsa(claims, "one"))).toBe("account-keys-unavailable");
    expect(await codeOf(remote("http://127.0.0.1:1/keys.json"), await byRsa(claims, "one"))).toBe(
      "account-keys-unavailable",
    );
  });

  it("is asked over TLS, but on this computer", () => {
    expect(() => remote("http://keys.example/set.json")).toThrow(/expected https/);
    expect(() => remote("https://keys.example/set.json")).not.toThrow();
  });
});
