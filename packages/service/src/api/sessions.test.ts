import { OperatorClient } from "@yellow-harbor/client";
import { CSRF_HEADER, type WhoAmI } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { OperatorSessions } from "../keys/operator-sessions.ts";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const closed = () =>
  startTestService(testConfig("good", (one) => ({ ...one, operators: { ...one.operators, access: "key" } })));

const post = (service: TestService, path: string, body: object, headers: Record<string, string> = {}) =>
  fetch(service.url + path, {
    method: "POST",
    body: JSON.stringify(body),
    headers: { "content-type": "application/json", ...headers },
  });
const codeOf = async (response: Response) => ((await response.json()) as { code: string }).code;

/** Logs in as a browser does. */
async function logIn(service: TestService, by: { key: string } | { code: string }, headers = {}) {
  const response = await post(service, "/v1/log-in", by, headers);
  const [set = ""] = response.headers.getSetCookie();
  const who = (await response.json()) as WhoAmI;
  const cookie = set.split(";")[0] ?? "";
  return { who, set, status: response.status, headers: { cookie, [CSRF_HEADER]: who.csrf ?? "" } };
}

describe("a session of the console", () => {
  it("begins with a key, by a cookie that no script reads and no other site sends, and survives a restart", async () => {
    const service = await closed();
    const operator = new OperatorClient({ url: service.url, token: service.operatorToken });
    const { secret } = await operator.createKey({ name: "Night watch", role: "operate" });
    const { who, set, headers } = await logIn(service, { key: secret });
    expect(who).toMatchObject({ name: "Night watch", role: "operate", by: "session" });
    expect(set).toMatch(/^yh_session=[\w.-]+; Path=\/; HttpOnly; SameSite=Strict$/);
    expect((await fetch(`${service.url}/v1/rooms`, { headers })).status).toBe(200);
    const again = await service.restart();
    const mine = await fetch(`${again.url}/v1/who-am-i`, { headers });
    expect(await mine.json()).toMatchObject({ session: who.session, csrf: who.csrf });
    expect((await post(again, "/v1/log-out", {}, headers)).status).toBe(200);
    expect(await codeOf(await fetch(`${again.url}/v1/rooms`, { headers }))).toBe("session-ended");
  });

  it("is of no use to a page of another site, nor without the token that its own page knows", async () => {
    const service = await closed();
    const { headers } = await logIn(service, { key: service.operatorToken });
    const { cookie } = headers;
    const own = new URL(service.url).origin;
    const ask = (more: Record<string, string>) => post(service, "/v1/pools/sluice/consider", {}, { cookie, ...more });
    const token = { [CSRF_HEADER]: headers[CSRF_HEADER] ?? "" };
    for (const [what, more] of [
      ["another origin", { ...token, origin: "https://other.example" }],
      ["another site", { ...token, "sec-fetch-site": "cross-site" }],
      ["a sibling", { ...token, "sec-fetch-site": "same-site" }],
      ["no token", { origin: own }],
      ["a wrong token", { origin: own, [CSRF_HEADER]: "A".repeat(32) }],
    ] as const) {
      expect(await codeOf(await ask(more)), what).toBe("origin-not-allowed");
    }
    expect((await ask({ ...token, origin: own, "sec-fetch-site": "same-origin" })).status).toBe(200);
    const elsewhere = await post(
      service,
      "/v1/log-in",
      { key: service.operatorToken },
      { origin: "https://x.example" },
    );
    expect(await codeOf(elsewhere)).toBe("origin-not-allowed");
  });

  it("ends with its key, by whoever administers, and is not another's to end", async () => {
    const service = await closed();
    const operator = new OperatorClient({ url: service.url, token: service.operatorToken });
    const [one, other] = [
      await operator.createKey({ name: "one", role: "look" }),
      await operator.createKey({ name: "other", role: "look" }),
    ];
    const first = await logIn(service, { key: one.secret });
    const second = await logIn(service, { key: other.secret });
    const end = (session: string | undefined, headers: Record<string, string>) =>
      post(service, `/v1/sessions/${session}/end`, {}, headers);
    expect(await codeOf(await end(first.who.session, second.headers))).toBe("session-unknown");
    expect((await operator.sessions()).sessions.map(({ name }) => name).sort()).toEqual(["one", "other"]);
    expect((await end(first.who.session, { authorization: `Bearer ${service.operatorToken}` })).status).toBe(200);
    expect(await codeOf(await fetch(`${service.url}/v1/rooms`, { headers: first.headers }))).toBe("session-ended");
    await operator.revokeKey(other.key.id);
    expect(await codeOf(await fetch(`${service.url}/v1/rooms`, { headers: second.headers }))).toBe("session-ended");
  });

  it("begins by a link once, with the role of whoever asked for it", async () => {
    const service = await closed();
    const operator = new OperatorClient({ url: service.url, token: service.operatorToken });
    const { secret } = await operator.createKey({ name: "one", role: "look" });
    const { code } = await new OperatorClient({ url: service.url, token: secret }).logInLink();
    expect((await logIn(service, { code })).who).toMatchObject({ name: "one", role: "look" });
    expect(await codeOf(await post(service, "/v1/log-in", { code }))).toBe("log-in-code-invalid");
  });
});

describe("sessions that are kept", () => {
  it("end when they are not used, and after their time in any case; only some stay of one key", async () => {
    let now = 1_000_000;
    const kept = new Map<string, object>();
    const keeper = {
      operatorSessions: async () => [],
      putOperatorSession: async (row: { id: string }) => void kept.set(row.id, row),
      removeOperatorSession: async (id: string) => void kept.delete(id),
    };
    const sessions = await OperatorSessions.open(keeper, { idleMs: 100_000, maxMs: 250_000 }, () => now);
    const { cookie } = await sessions.begin("k_1", "192.0.2.1", "a browser");
    for (const [atMs, isThere] of [
      [1_099_000, true],
      [1_198_000, true],
      [1_249_000, true],
      [1_250_000, false],
    ] as const) {
      now = atMs;
      expect(sessions.check(cookie) !== undefined, String(atMs)).toBe(isThere);
    }
    for (let n = 0; n < 25; n++) await sessions.begin("k_1", "192.0.2.1", "a browser");
    expect([sessions.list().length, kept.size]).toEqual([20, 20]);
    for (const bad of ["", "x", `${"a".repeat(12)}.${"A".repeat(43)}`]) expect(sessions.check(bad)).toBeUndefined();
  });
});

describe("wrong keys", () => {
  it("are counted, slowed down and shown, and a right one from the same address is let in", async () => {
    const service = await closed();
    const wrong = (n: number) =>
      fetch(`${service.url}/v1/rooms`, { headers: { authorization: `Bearer guess-${n}` } }).then(codeOf);
    const codes = [];
    for (let n = 0; n < 14; n++) codes.push(await wrong(n));
    expect(codes.slice(0, 10)).toEqual(Array(10).fill("operator-token-needed"));
    expect(codes.slice(10)).toEqual(Array(4).fill("keys-too-fast"));
    const operator = new OperatorClient({ url: service.url, token: service.operatorToken });
    expect((await operator.status()).wrongKeys).toMatchObject({ count: 14, lastFrom: "127.0.0.1" });
    const { entries } = await operator.audit();
    expect(entries.filter(({ action }) => action === "wrong-key")).toHaveLength(1);
  });
});
