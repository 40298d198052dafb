import { OperatorClient } from "@yellow-harbor/client";
import { CSRF_HEADER, instanceRoutes, mayDo, OPERATOR_ROLES, operatorRoutes, WhoAmI } from "@yellow-harbor/protocol";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

let service: TestService;
const secrets: Record<string, string> = {};
const sessions: Record<string, Record<string, string>> = {};
beforeAll(async () => {
  service = await startTestService(testConfig());
  for (const role of OPERATOR_ROLES) {
    secrets[role] = (await service.operator.createKey({ name: role, role })).secret;
    sessions[role] = await browser(secrets[role]);
  }
});
afterAll(endAll);

const ask = async (method: string, path: string, authorization: Record<string, string>) => {
  const url = service.url + path.replaceAll(/:\w+/g, "x");
  const abort = new AbortController();
  const body =
    method === "POST" ? { body: "{}", headers: { "content-type": "application/json", ...authorization } } : {};
  const response = await fetch(url, { method, headers: authorization, signal: abort.signal, ...body });
  const isProblem = response.headers.get("content-type")?.startsWith("application/problem+json");
  const code = isProblem ? ((await response.json()) as { code: string }).code : undefined;
  abort.abort();
  return { status: response.status, code };
};

const WRONG_KEYS = [
  () => `yhk_aaaaaaaaaaaa_${"A".repeat(43)}`,
  () => "nonsense",
  () => secrets["administer"]?.slice(0, -1) ?? "",
];
/** Each route is tried with one of the wrong keys, in turn. */
const routes = Object.entries(operatorRoutes).map(([name, { method, path, needs }], n) => {
  return { name, method, path, needs, wrongKey: WRONG_KEYS[n % WRONG_KEYS.length] ?? (() => "") };
});
const NO_KEY = ["operator-token-needed", "keys-too-fast"];
const DENIED = ["role-needed", "session-ended", "origin-not-allowed", ...NO_KEY];

/** A browser that is logged in with a key: what it sends with each request. */
async function browser(key: string): Promise<Record<string, string>> {
  const response = await fetch(`${service.url}/v1/log-in`, {
    method: "POST",
    body: JSON.stringify({ key }),
    headers: { "content-type": "application/json" },
  });
  const { csrf } = WhoAmI.parse(await response.json());
  return { cookie: response.headers.getSetCookie()[0]?.split(";")[0] ?? "", [CSRF_HEADER]: csrf ?? "" };
}

describe("every route of operators", () => {
  it("has a role that it needs, or is open to anybody", () => {
    expect(routes.length).toBeGreaterThan(50);
    expect(routes.filter(({ needs }) => needs === null).map(({ name }) => name)).toEqual([
      "healthz",
      "readyz",
      "about",
      "logIn",
    ]);
    expect(routes.filter(({ needs }) => needs === "deploy").map(({ name }) => name)).toContain("addBuild");
    expect(routes.filter(({ needs }) => needs === "administer").map(({ name }) => name)).toEqual(
      expect.arrayContaining(["backup", "keys", "createKey", "rotateKey", "revokeKey"]),
    );
  });

  it.each(routes)(
    "$method $path lets in $needs and above, and nobody else",
    async ({ method, path, needs, wrongKey }) => {
      // A browser is tried with the lowest role that may, and with the one below it.
      const lowest = OPERATOR_ROLES.findIndex((role) => needs === null || mayDo(role, needs));
      for (const [n, role] of OPERATOR_ROLES.entries()) {
        const { code } = await ask(method, path, { authorization: `Bearer ${secrets[role]}` });
        const isDenied = DENIED.includes(code ?? "");
        expect(isDenied, `${role}: ${code}`).toBe(needs !== null && !mayDo(role, needs));
        if (path === "/v1/log-out" || path === "/v1/log-in" || n < lowest - 1 || n > lowest) continue;
        const { code: inBrowser } = await ask(method, path, sessions[role] ?? {});
        expect(DENIED.includes(inBrowser ?? ""), `${role} in a browser: ${inBrowser}`).toBe(
          needs !== null && !mayDo(role, needs),
        );
        if (method === "GET" || needs === null || !mayDo(role, needs)) continue;
        const { code: without } = await ask(method, path, { cookie: sessions[role]?.["cookie"] ?? "" });
        expect(without, `${role} without the session's token`).toBe("origin-not-allowed");
      }
      const { code } = await ask(method, path, { authorization: `Bearer ${wrongKey()}` });
      expect(NO_KEY.includes(code ?? ""), `${wrongKey()}: ${code}`).toBe(needs !== null);
    },
  );

  it.each(Object.values(instanceRoutes))(
    "an instance's own $path takes no operator's key",
    async ({ method, path }) => {
      const { code } = await ask(method, path, { authorization: `Bearer ${secrets["administer"]}` });
      expect(code).toBe("instance-key-invalid");
    },
  );
});

describe("keys over HTTP", () => {
  it("are shown once, listed without their secrets, rotated and revoked", async () => {
    const { key, secret } = await service.operator.createKey({ name: "pipeline", role: "deploy", days: 30 });
    const own = new OperatorClient({ url: service.url, token: secret });
    expect((await own.status()).harbor).toBe("test-harbor");
    await expect(own.keys()).rejects.toMatchObject({ problem: { code: "role-needed" } });
    const list = await service.operator.keys();
    expect(list.keys.find(({ id }) => id === key.id)).toMatchObject({ role: "deploy", lastUsedFrom: "127.0.0.1" });
    expect(JSON.stringify(list)).not.toContain(secret.slice(20));
    const next = await service.operator.rotateKey(key.id, 0);
    await expect(own.status()).rejects.toMatchObject({ problem: { code: expect.toBeOneOf(NO_KEY) } });
    const renewed = new OperatorClient({ url: service.url, token: next.secret });
    expect((await renewed.status()).harbor).toBe("test-harbor");
    await service.operator.revokeKey(next.key.id);
    await expect(renewed.status()).rejects.toMatchObject({ problem: { code: expect.toBeOneOf(NO_KEY) } });
    await expect(service.operator.revokeKey("k_aaaaaaaaaaaa")).rejects.toMatchObject({
      problem: { code: "key-unknown" },
    });
  });

  it("outlive the service, and its journal holds none of them", async () => {
    const { key, secret } = await service.operator.createKey({ name: "night watch", role: "look" });
    service = await service.restart();
    const own = new OperatorClient({ url: service.url, token: secret });
    expect((await own.status()).harbor).toBe("test-harbor");
    const { events } = await service.operator.journal({ limit: 1_000 });
    expect(JSON.stringify(events)).not.toContain(key.id);
  });
});
