import { existsSync } from "node:fs";
import type { IncomingHttpHeaders } from "node:http";
import { request } from "node:https";
import { OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { WebSocket } from "ws";
import { Config } from "../packages/service/src/config/schema.ts";
import { makeCertificate } from "../packages/service/src/testing/test-certificate.ts";
import { testPorts } from "../packages/service/src/testing/test-ports.ts";
import {
  endAll,
  startTestService,
  type TestService,
  temporaryFolder,
  testConfig,
} from "../packages/service/src/testing/test-service.ts";
import { proxies, startProxy } from "./proxies.ts";

/** Where clients come from: another address than that of the proxy, which is on the service's own computer. */
const CLIENT = "127.0.0.9";
const INSECURE = { rejectUnauthorized: false, localAddress: CLIENT };

describe.each(Object.entries(proxies))("a service behind %s, with the file that is shipped", (_name, proxy) => {
  let service: TestService;
  let outside: string;
  let stopProxy: (() => Promise<void>) | undefined;

  beforeAll(async () => {
    expect(existsSync(proxy.program), `${proxy.program}; npm test installs it`).toBe(true);
    const folder = temporaryFolder();
    const certificate = makeCertificate(folder);
    const port = testPorts();
    outside = `https://localhost:${port}`;
    const config = testConfig("good", (one) =>
      Config.parse({
        ...one,
        operators: { access: "key" },
        // Instances come through the proxy too, as they would from another computer.
        listen: { port: 0, url: outside, trustedProxies: ["127.0.0.1"] },
        players: { ...one.players, perAddress: { connections: 3, perSecond: 100 } },
        pools: { sluice: { ...one.pools["sluice"], environment: { NODE_EXTRA_CA_CERTS: certificate.certFile } } },
        instanceRelay: { enabled: true },
      }),
    );
    service = await startTestService(config);
    stopProxy = startProxy(proxy, { folder, port, servicePort: service.port, certificate });
    await vi.waitFor(async () => expect((await ask("/readyz")).status).toBe(200), { timeout: 30_000, interval: 50 });
  });
  afterAll(async () => {
    await stopProxy?.();
    await endAll();
  });

  interface Asking {
    readonly method?: string;
    readonly headers?: Readonly<Record<string, string>>;
    readonly body?: string;
  }

  /** Asks through the proxy, as somebody from elsewhere. */
  const ask = (path: string, { method = "GET", headers = {}, body }: Asking = {}) =>
    new Promise<{ status: number | undefined; headers: IncomingHttpHeaders; text: string }>((resolve, reject) => {
      const asked = request(`${outside}${path}`, { ...INSECURE, method, headers }, (response) => {
        let text = "";
        response.setEncoding("utf8");
        response.on("data", (chunk) => (text += chunk));
        response.on("end", () => resolve({ status: response.statusCode, headers: response.headers, text }));
      });
      asked.on("error", reject);
      asked.end(body);
    });

  const player = (name: string, from?: string) =>
    PlayerClient.connect({
      url: outside,
      name,
      build: "game-1",
      reconnect: false,
      socket: async (url, protocol) =>
        new WebSocket(url, protocol, { ...INSECURE, ...(from && { headers: { "x-forwarded-for": from } }) }) as never,
    });

  it("lets players meet, travel and reach an instance through it, which comes through it as well", async () => {
    const [ansel, brisa] = [await player("Ansel"), await player("Brisa")];
    const { room } = await ansel.openRoom({ capacity: 2 });
    await brisa.joinRoom({ room: room.id });
    await ansel.pickLevel("brine-gate");
    await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
    await ansel.start();
    const pass = await ansel.nextPass();
    const socket = new WebSocket(
      `${outside.replace("https", "wss")}${pass.relay}`,
      ["yellow-harbor-relay.1", pass.pass],
      INSECURE,
    );
    const answer = await new Promise<string>((resolve, reject) => {
      socket.on("error", reject);
      socket.on("message", (data) => resolve(String(data)));
      socket.on("open", () => socket.send(`${pass.pass}\n`));
    });
    expect(JSON.parse(answer).status).toBe(200);
    socket.close();
    ansel.drop();
    brisa.drop();
  });

  it("makes nobody an operator, wherever they say they come from", async () => {
    for (const headers of [
      {},
      { "x-forwarded-for": "127.0.0.1" },
      { "x-real-ip": "127.0.0.1" },
      { forwarded: "for=127.0.0.1" },
    ] as Record<string, string>[]) {
      for (const path of ["/v1/status", "/v1/keys", "/v1/watch"]) {
        const response = await ask(path, { headers });
        expect(response.status, `${path} ${JSON.stringify(headers)}`).toBe(401);
        expect(response.headers["cache-control"]).toBe("no-store");
      }
    }
    const backup = await ask("/v1/backup", { method: "POST", body: "{}" });
    expect(backup.status).toBe(401);
  });

  it("counts players by the address that the proxy saw, and not by what they say it is", async () => {
    const many = await Promise.all(
      Array.from({ length: 5 }, (_, n) => player(`Player ${n}`, `192.0.2.${n}`).catch(() => undefined)),
    );
    const inside = many.filter((one) => one !== undefined);
    // All of them come from one address, whatever they made up in front.
    expect(inside.length).toBeLessThanOrEqual(3);
    expect(inside.length).toBeGreaterThan(0);
    for (const one of inside) one.drop();
  });

  it("passes on what is told bit by bit, at once", async () => {
    const headers = { authorization: `Bearer ${service.operatorToken}`, accept: "text/event-stream" };
    const first = await new Promise<string>((resolve, reject) => {
      const asked = request(`${outside}/v1/watch`, { ...INSECURE, headers }, (response) => {
        response.setEncoding("utf8");
        response.once("data", (chunk: string) => {
          resolve(chunk);
          asked.destroy();
        });
      });
      asked.on("error", reject);
      asked.end();
    });
    expect(first).toContain('"message":"state"');
  });

  it("logs a browser in by a cookie that goes over TLS alone, with what its own pages may ask", async () => {
    const headers = { "content-type": "application/json", origin: outside };
    const body = JSON.stringify({ key: service.operatorToken });
    const response = await ask("/v1/log-in", { method: "POST", headers, body });
    const [cookie = ""] = response.headers["set-cookie"] ?? [];
    expect(cookie).toMatch(/; Secure; SameSite=Strict$/);
    const { csrf } = JSON.parse(response.text) as { csrf: string };
    const own = { ...headers, cookie: cookie.split(";")[0] ?? "", "x-yh-csrf": csrf };
    expect((await ask("/v1/sessions", { headers: own })).status).toBe(200);
    const link = (more: Record<string, string>) =>
      ask("/v1/log-in-links", { method: "POST", headers: { ...own, ...more }, body: "{}" });
    expect((await link({})).status).toBe(200);
    expect((await link({ origin: "https://other.example" })).status).toBe(403);
    const { entries } = await new OperatorClient({ url: service.url, token: service.operatorToken }).audit();
    expect(entries[0]).toMatchObject({ action: "logInLink", from: CLIENT, result: "done" });
  });
});
