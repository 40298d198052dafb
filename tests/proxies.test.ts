import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { WebSocket } from "ws";
import { Config } from "../config/schema.ts";
import { makeCertificate } from "../testing/test-certificate.ts";
import { testPorts } from "../testing/test-ports.ts";
import { endAll, startTestService, type TestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

/** Where the proxy comes from: another address than that of its clients. */
const PROXY = "127.0.0.2";

const nginx = process.env["NGINX"] ?? "/usr/sbin/nginx";

let service: TestService;
let outside: string;
let stopProxy: (() => Promise<void>) | undefined;

beforeAll(async () => {
  expect(existsSync(nginx), "nginx; npm test installs it").toBe(true);
  const folder = temporaryFolder();
  const files = makeCertificate(folder);
  const ports = testPorts();
  outside = `https://localhost:${ports}`;
  const config = testConfig("good", (one) =>
    Config.parse({
      ...one,
      operators: { access: "key" },
      // Instances come through the proxy too, as they would from another computer.
      listen: { port: 0, url: outside, trustedProxies: [PROXY] },
      players: { ...one.players, perAddress: { connections: 3, perSecond: 100 } },
      pools: { sluice: { ...one.pools["sluice"], environment: { NODE_EXTRA_CA_CERTS: files.certFile } } },
      instanceRelay: { enabled: true },
    }),
  );
  service = await startTestService(config);
  await startProxy(folder, ports, files);
});
afterAll(async () => {
  await endAll();
  await stopProxy?.();
});

async function startProxy(folder: string, port: number, { certFile, keyFile }: { certFile: string; keyFile: string }) {
  mkdirSync(join(folder, "logs"), { recursive: true });
  const file = join(folder, "nginx.conf");
  writeFileSync(
    file,
    `${process.getuid?.() === 0 ? "user root;" : ""}
daemon off; pid ${folder}/nginx.pid; error_log ${folder}/logs/error.log; worker_processes 1;
events {}
http {
  access_log off;
  client_body_temp_path ${folder}/body; proxy_temp_path ${folder}/proxy; fastcgi_temp_path ${folder}/fastcgi;
  uwsgi_temp_path ${folder}/uwsgi; scgi_temp_path ${folder}/scgi;
  map $http_upgrade $connection_upgrade { default upgrade; '' close; }
  server {
    listen 127.0.0.1:${port} ssl;
    ssl_certificate ${certFile}; ssl_certificate_key ${keyFile};
    location / {
      proxy_pass http://127.0.0.1:${service.port};
      proxy_bind ${PROXY};
      proxy_http_version 1.1;
      proxy_set_header Host $http_host;
      proxy_set_header Upgrade $http_upgrade;
      proxy_set_header Connection $connection_upgrade;
      proxy_set_header X-Forwarded-For $proxy_add_x_forwarded_for;
      proxy_set_header X-Forwarded-Proto $scheme;
      proxy_buffering off;
      proxy_read_timeout 1h;
    }
  }
}
`,
  );
  const child = spawn(nginx, ["-c", file, "-p", folder, "-e", join(folder, "logs/error.log")], { stdio: "ignore" });
  const ended = once(child, "exit");
  stopProxy = async () => {
    child.kill("SIGQUIT");
    const force = setTimeout(() => child.kill("SIGKILL"), 3_000);
    await ended;
    clearTimeout(force);
  };
  await vi.waitFor(async () => expect((await ask("/readyz")).status).toBe(200), { timeout: 10_000, interval: 50 });
}

const INSECURE = { rejectUnauthorized: false };

/** Asks through the proxy, as somebody from anywhere. */
async function ask(path: string, init: RequestInit = {}): Promise<Response> {
  const before = process.env["NODE_TLS_REJECT_UNAUTHORIZED"];
  process.env["NODE_TLS_REJECT_UNAUTHORIZED"] = "0";
  try {
    return await fetch(outside + path, init);
  } finally {
    if (before === undefined) delete process.env["NODE_TLS_REJECT_UNAUTHORIZED"];
    else process.env["NODE_TLS_REJECT_UNAUTHORIZED"] = before;
  }
}

const player = (name: string, from?: string) =>
  PlayerClient.connect({
    url: outside,
    name,
    build: "game-1",
    reconnect: false,
    socket: async (url, protocol) =>
      new WebSocket(url, protocol, { ...INSECURE, ...(from && { headers: { "x-forwarded-for": from } }) }) as never,
  });

describe("a service behind a proxy with TLS", () => {
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
      { host: "localhost" },
    ] as Record<string, string>[]) {
      for (const path of ["/v1/status", "/v1/keys", "/v1/watch"]) {
        const response = await ask(path, { headers });
        expect(response.status, `${path} ${JSON.stringify(headers)}`).toBe(401);
        expect(response.headers.get("cache-control")).toBe("no-store");
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
    // All of them come from this computer, whatever they made up in front.
    expect(inside.length).toBeLessThanOrEqual(3);
    expect(inside.length).toBeGreaterThan(0);
    for (const one of inside) one.drop();
  });

  it("logs a browser in by a cookie that goes over TLS alone, with what its own pages may ask", async () => {
    const headers = { "content-type": "application/json", origin: outside };
    const body = JSON.stringify({ key: service.operatorToken });
    const response = await ask("/v1/log-in", { method: "POST", headers, body });
    const [cookie = ""] = response.headers.getSetCookie();
    expect(cookie).toMatch(/; Secure; SameSite=Strict$/);
    const { csrf } = (await response.json()) as { csrf: string };
    const own = { ...headers, cookie: cookie.split(";")[0] ?? "", "x-yh-csrf": csrf };
    expect((await ask("/v1/sessions", { headers: own })).status).toBe(200);
    const link = (more: object) =>
      ask("/v1/log-in-links", { method: "POST", headers: { ...own, ...more }, body: "{}" });
    expect((await link({})).status).toBe(200);
    expect((await link({ origin: "https://other.example" })).status).toBe(403);
    const { entries } = await new OperatorClient({ url: service.url, token: service.operatorToken }).audit();
    expect(entries[0]).toMatchObject({ action: "logInLink", from: "127.0.0.1", result: "done" });
  });
});
