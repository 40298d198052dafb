import { once } from "node:events";
import { connect, type Socket } from "node:net";
import { Problem } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { WebSocketServer } from "ws";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";
import { AddressGate } from "./address-gate.ts";
import { callerOf, isNetwork, trustedProxies } from "./caller.ts";
import { FrontDoor } from "./front-door.ts";
import { pathOf } from "./target.ts";

afterEach(endAll);

const KEY = "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==";
const upgrade = (target: string, more: readonly string[] = [KEY, "Sec-WebSocket-Version: 13"]) =>
  [`GET ${target} HTTP/1.1`, "Host: x", "Connection: Upgrade", "Upgrade: websocket", ...more, "", ""].join("\r\n");

async function dial(service: { port: number }): Promise<Socket> {
  const socket = connect(service.port, "127.0.0.1");
  socket.on("error", () => undefined);
  await once(socket, "connect");
  return socket;
}

/** All that the service says to some bytes until it closes. */
async function answerTo(service: { port: number }, bytes: string): Promise<string> {
  const socket = await dial(service);
  let said = "";
  socket.setEncoding("latin1").on("data", (chunk) => {
    said += chunk;
  });
  socket.write(bytes, "latin1");
  await once(socket, "close");
  return said;
}

/** The status and the code of a problem that came as raw HTTP. */
function refusalIn(said: string): { status: number; code: string } {
  const [head = "", body = ""] = said.split("\r\n\r\n");
  expect(head).toMatch(/content-type: application\/problem\+json/i);
  return { status: Number(head.split(" ")[1]), code: Problem.parse(JSON.parse(body)).code };
}

const stillAnswers = async ({ url }: TestService) => expect((await fetch(`${url}/readyz`)).status).toBe(200);

describe("the front door", () => {
  it.each<[target: string, status: number, code: string]>([
    ["//", 404, "not-found"],
    ["/v1/relay/%", 404, "relay-off"],
    ["/v1/relay/%ff", 404, "relay-off"],
    ["http://", 400, "http-malformed"],
    ["http://x:99999999/", 400, "http-malformed"],
    ["http://x/nowhere", 404, "not-found"],
    ["*", 400, "http-malformed"],
    ["/v1/agent", 401, "agent-token-invalid"],
  ])("refuses an upgrade to %s with a problem, and lives", async (target, status, code) => {
    const service = await startTestService();
    expect(refusalIn(await answerTo(service, upgrade(target)))).toEqual({ status, code });
    await stillAnswers(service);
  });

  it.each<[what: string, bytes: string, code: string]>([
    ["without a key", upgrade("/v1/play", []), "upgrade-invalid"],
    ["of another version", upgrade("/v1/play", [KEY, "Sec-WebSocket-Version: 7"]), "upgrade-invalid"],
    ["by POST", upgrade("/v1/play").replace("GET", "POST"), "upgrade-invalid"],
    ["to something else", upgrade("/healthz").replace("websocket", "h2c"), "upgrade-invalid"],
    ["as a tunnel", "CONNECT x:1 HTTP/1.1\r\nHost: x\r\n\r\n", "method-unknown"],
  ])("refuses a handshake %s in the same words", async (_what, bytes, code) => {
    const service = await startTestService();
    expect(refusalIn(await answerTo(service, bytes)).code).toBe(code);
    await stillAnswers(service);
  });

  it("lives when whoever was refused resets the connection, at any moment", async () => {
    const service = await startTestService();
    for (const target of ["/nowhere", "/v1/play", "/v1/relay/i_1", "/v1/agent", "//"]) {
      for (const after of ["nothing", "some", "all", "answer"] as const) {
        const socket = await dial(service);
        const bytes = upgrade(target);
        if (after !== "nothing") socket.write(after === "some" ? bytes.slice(0, 40) : bytes);
        if (after === "answer") await Promise.race([once(socket, "data"), once(socket, "close")]);
        socket.resetAndDestroy();
      }
    }
    await stillAnswers(service);
  });

  it("lets nobody who was refused hold a connection, so newcomers still get in", async () => {
    const config = testConfig("good", (one) => ({
      ...one,
      players: { ...one.players, perAddress: { sockets: 10_000, connections: 20, perSecond: 1_000 } },
    }));
    const service = await startTestService(config);
    // Each asks for nothing that is there, and then neither reads nor goes.
    const idle = await Promise.all(
      Array.from({ length: 60 }, async () => {
        const socket = await dial(service);
        socket.pause();
        socket.write(upgrade("/nowhere"));
        return socket;
      }),
    );
    const closed = Promise.all(idle.map((socket) => once(socket.resume(), "close")));
    await closed;
    await expect(service.player("Ansel")).resolves.toBeDefined();
  });

  it("counts refused upgrades against the pace of their address", async () => {
    const config = testConfig("good", (one) => ({
      ...one,
      players: { ...one.players, perAddress: { sockets: 10_000, connections: 1_000, perSecond: 5 } },
    }));
    const service = await startTestService(config);
    const codes = await Promise.all(
      Array.from({ length: 30 }, async () => refusalIn(await answerTo(service, upgrade("/nowhere"))).code),
    );
    expect(codes.filter((code) => code === "too-many-connections").length).toBeGreaterThanOrEqual(15);
  });

  it("answers for a door that throws, and goes on", async () => {
    const errors: unknown[] = [];
    const door = {
      sockets: new WebSocketServer({ noServer: true }),
      holdsPlace: true,
      opensAt: () => true,
      decide: () => {
        throw new Error("planted");
      },
    };
    const front = new FrontDoor({
      sockets: 1_000,
      gate: new AddressGate({ connections: 9, perSecond: 9 }),
      trusts: () => false,
      doors: [door],
      log: { error: (...of: unknown[]) => void errors.push(of) } as never,
      refused: () => undefined,
    });
    const { createServer } = await import("node:http");
    const server = createServer();
    front.attach(server);
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    const { port } = server.address() as { port: number };
    expect(refusalIn(await answerTo({ port }, upgrade("/x")))).toEqual({ status: 500, code: "internal" });
    expect(errors).toHaveLength(1);
    server.close();
  });
});

describe("HTTP that is none, or none that is taken", () => {
  const get = (target: string, more = "") => `GET ${target} HTTP/1.1\r\nHost: x\r\nConnection: close\r\n${more}\r\n`;

  it.each<[what: string, bytes: string, status: number, code: string]>([
    ["a malformed path", get("/v1/rooms/%zz"), 400, "http-malformed"],
    ["a long parameter", get(`/v1/rooms/${"a".repeat(200)}`), 414, "path-too-long"],
    ["an unknown method", "BREW / HTTP/1.1\r\nHost: x\r\n\r\n", 501, "method-unknown"],
    ["a method that nothing here has", get("/v1/status").replace("GET", "PROPFIND"), 404, "not-found"],
    ["both lengths", get("/", "Content-Length: 3\r\nTransfer-Encoding: chunked\r\n"), 400, "http-malformed"],
    ["headers of 20 KiB", get("/", `X: ${"a".repeat(20_000)}\r\n`), 431, "headers-too-large"],
    ["no host", "GET / HTTP/1.1\r\nConnection: close\r\n\r\n", 400, "http-malformed"],
    ["another expectation", get("/healthz", "Expect: tea\r\n"), 417, "expectation-unknown"],
    ["another protocol", "\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03 hello\r\n\r\n", 501, "method-unknown"],
    ["garbage", "\x00\xff\x00\xff\r\n\r\n", 501, "method-unknown"],
  ])("%s is a problem with a code", async (_what, bytes, status, code) => {
    const service = await startTestService();
    expect(refusalIn(await answerTo(service, bytes))).toEqual({ status, code });
    await stillAnswers(service);
  });

  it("a body that trickles in without a key is refused before it is read", async () => {
    const service = await startTestService();
    const head =
      "POST /v1/instance/poll HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 900\r\n";
    const poll = head.replace("poll", "poll");
    const socket = await dial(service);
    socket.write(`${poll}Connection: close\r\n\r\n{`);
    const [said] = (await once(socket.setEncoding("latin1"), "data")) as [string];
    expect(said).toMatch(/^HTTP\/1\.1 401/);
    socket.destroy();
  });

  it("a request that never ends is given up", async () => {
    const service = await startTestService();
    const said = await answerTo(service, "POST /v1/instance/poll HTTP/1.1\r\nHost: x\r\n");
    expect(refusalIn(said)).toEqual({ status: 408, code: "request-late" });
  }, 30_000);

  it("a body that is not JSON is told so, in words for a person", async () => {
    const { url } = await startTestService();
    const response = await fetch(`${url}/v1/players/say`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: "{nonsense",
    });
    expect([response.status, ((await response.json()) as Problem).code]).toEqual([400, "body-not-json"]);
  });
});

describe("what an upgrade asks for", () => {
  it("is a path as it was sent, whatever the form of the request line", () => {
    expect(["/a?b", "/a#b", "//", "http://x/a?b", "https://x", "*", "x:1", "", undefined].map(pathOf)).toEqual([
      ...["/a", "/a", "//", "/a", "/", undefined, undefined, undefined, undefined],
    ]);
  });
});

describe("where a request comes from", () => {
  const from = (remoteAddress: string, forwarded: string | undefined, trusted: string[] = []) =>
    callerOf(
      { headers: { "x-forwarded-for": forwarded }, socket: { remoteAddress } } as never,
      trustedProxies(trusted),
    );

  it("is believed of listed proxies alone, as far as they wrote it", () => {
    expect(from("10.0.0.1", "192.0.2.1")).toBe("10.0.0.1");
    expect(from("10.0.0.1", "192.0.2.1", ["10.0.0.0/8"])).toBe("192.0.2.1");
    expect(from("::ffff:10.0.0.1", "198.51.100.9, 192.0.2.1, 10.3.3.3", ["10.0.0.0/8"])).toBe("192.0.2.1");
    expect(from("10.0.0.1", "192.0.2.1, nonsense", ["10.0.0.0/8"])).toBe("10.0.0.1");
    expect(from("fe80::1%eth0", "2001:db8::7", ["fe80::/10"])).toBe("2001:db8::7");
    expect(from("10.0.0.1", undefined, ["10.0.0.1"])).toBe("10.0.0.1");
  });

  it("is looked for in the last few hops alone, however long the header is", () => {
    // Nobody has so many proxies: what stands before the last few of them is not even looked at.
    expect(from("10.0.0.1", `192.0.2.1,${"10.0.0.2,".repeat(15)}10.0.0.3`, ["10.0.0.0/8"])).toBe("10.0.0.2");
    expect(from("10.0.0.1", `192.0.2.1,${"10.0.0.2,".repeat(14)}10.0.0.3`, ["10.0.0.0/8"])).toBe("192.0.2.1");
  });

  it("names networks as the configuration may", () => {
    const good = ["10.0.0.1", "10.0.0.0/8", "::1", "2001:db8::/32"];
    const bad = ["10.0.0", "10.0.0.0/33", "proxy", "10.0.0.0/8/8", "10.0.0.0/", "::/129", ""];
    expect([good.every(isNetwork), bad.some(isNetwork)]).toEqual([true, false]);
  });
});
