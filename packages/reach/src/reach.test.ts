import { spawn } from "node:child_process";
import { once } from "node:events";
import { createServer as createHttp } from "node:http";
import { type AddressInfo, connect, createServer, type Server, type Socket } from "node:net";
import { reachCauseOf } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import {
  addressKind,
  diagnose,
  isLoopback,
  isUsable,
  listeningPorts,
  networkOf,
  ownAddresses,
  sameAddress,
  tryTcp,
} from "./index.ts";
import { entryOf } from "./listening.ts";

const servers: Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) server.close();
});

async function listening(server: Server, host = "127.0.0.1"): Promise<number> {
  servers.push(server);
  server.listen(0, host);
  await once(server, "listening");
  return (server.address() as AddressInfo).port;
}

/** A web server that tells of itself what it is given. */
const telling = (about: unknown, status = 200) =>
  createHttp((_request, response) => response.writeHead(status).end(JSON.stringify(about)));
const about = { harbor: "tidewrights", version: "0.2.0", wire: 1, accepts: ["game-1"], seenAs: "127.0.0.1" };
const target = (port: number, tls = false) => ({ host: "127.0.0.1", port, tls });
const ignore = () => undefined;
const FAST = { patienceMs: 500 };

describe("an address", () => {
  it.each([
    ["127.0.0.1", "loopback"],
    ["127.8.8.8", "loopback"],
    ["::1", "loopback"],
    ["::ffff:127.0.0.1", "loopback"],
    ["10.1.2.3", "local-network"],
    ["172.16.0.1", "local-network"],
    ["192.168.7.7", "local-network"],
    ["fd00::7", "local-network"],
    ["169.254.1.1", "link-local"],
    ["fe80::1%eth0", "link-local"],
    ["100.64.0.1", "shared"],
    ["8.8.8.8", "public"],
    ["2606:4700::1111", "public"],
    ["0.0.0.0", "unusable"],
    ["::", "unusable"],
    ["224.0.0.1", "unusable"],
    ["255.255.255.255", "unusable"],
    ["ff02::1", "unusable"],
  ])("%s is %s", (address, kind) => {
    expect(addressKind(address)).toBe(kind);
    expect(isUsable(address)).toBe(kind !== "unusable");
  });

  it("is none when programs would read it differently, or when it is a name", () => {
    for (const text of ["localhost", "1.2.3", "0x7f.1", "017700000001", "2130706433", "", "::g"]) {
      expect(addressKind(text), text).toBeUndefined();
    }
  });

  it("is the same however it is written", () => {
    expect(sameAddress("::ffff:192.0.2.1", "192.0.2.1")).toBe(true);
    expect(sameAddress("[2001:db8:0:0::1]", "2001:DB8::1")).toBe(true);
    expect(sameAddress("192.0.2.1", "192.0.2.2")).toBe(false);
  });

  it("of this computer is found, with what listens on it", async () => {
    expect(ownAddresses().map(({ address }) => address)).toContain("127.0.0.1");
    const port = await listening(createServer());
    expect(listeningPorts()).toContainEqual({ address: "127.0.0.1", port });
    const line =
      "   1: 0100007F:1CFC 00000000:0000 0A 00000000:00000000 00:00000000 00000000     0        0 1 1 0 100 0 0 10 0";
    expect(entryOf(line)).toEqual([{ address: "127.0.0.1", port: 7420 }]);
    expect(entryOf(line.replace(" 0A ", " 01 "))).toEqual([]);
  });
});

describe("a way to a service", () => {
  it("that works tells what it found at each step, but for the last one of a web server without WebSockets", async () => {
    const port = await listening(telling(about));
    const { steps, cause } = await diagnose(target(port), FAST);
    expect(steps.map(({ step, ok }) => [step, ok])).toEqual([
      ["name", true],
      ["connection", true],
      ["protocol", true],
      ["wire", true],
      ["build", true],
      ["websocket", false],
    ]);
    expect(cause).toBe("no-upgrade");
  });

  it("fails for a wire version or a build that is not spoken there", async () => {
    const old = await listening(telling({ ...about, wire: 7 }));
    expect((await diagnose(target(old), FAST)).cause).toBe("wire-mismatch");
    const port = await listening(telling(about));
    const { cause, steps } = await diagnose(target(port), { ...FAST, build: "game-2" });
    expect(cause).toBe("build-mismatch");
    expect(steps.at(-1)?.text).toContain("It lets in game-1, not game-2.");
  });

  it("fails with one cause each where nothing listens, nothing answers, or something else does", async () => {
    const gone = createServer();
    const port = await listening(gone);
    await new Promise((resolve) => gone.close(resolve));
    expect((await diagnose(target(port), FAST)).cause).toBe("refused");
    expect((await diagnose({ host: "no-such-name.invalid", port: 1, tls: false }, FAST)).cause).toBe("name-unknown");
    const other = await listening(telling({ hello: "world" }));
    expect((await diagnose(target(other), FAST)).cause).toBe("wrong-protocol");
    const missing = await listening(telling({ error: "not found" }, 404));
    expect((await diagnose(target(missing), FAST)).cause).toBe("wrong-protocol");
    const game = await listening(createServer((socket) => socket.on("error", ignore).end("READY\n")));
    expect((await diagnose(target(game), FAST)).cause).toBe("wrong-protocol");
    const mute = await listening(createServer((socket) => socket.on("error", ignore)));
    expect((await diagnose(target(mute), FAST)).cause).toBe("silent");
    const curt = await listening(createServer((socket) => socket.on("error", ignore).destroy()));
    expect((await diagnose(target(curt), FAST)).cause).toBe("closed-early");
  });

  it("fails for TLS that is missing, not expected, or not trusted", async () => {
    const plain = await listening(telling(about));
    expect((await diagnose(target(plain, true), FAST)).cause).toBe("tls-missing");
    const { key, cert } = await certificate();
    const { createServer: createSecure } = await import("node:https");
    const secure = await listening(createSecure({ key, cert }, (_request, response) => response.end("{}")));
    expect((await diagnose(target(secure), FAST)).cause).toBe("tls-unexpected");
    expect((await diagnose(target(secure, true), FAST)).cause).toBe("tls-untrusted");
  });

  it("has a cause for each way in which errors of sockets name themselves", () => {
    const told = (code: string, message = "") => reachCauseOf(Object.assign(new Error(message), { code }));
    expect(told("ETIMEDOUT")).toBe("no-answer");
    expect(told("EHOSTUNREACH")).toBe("no-route");
    expect(told("ECONNRESET")).toBe("closed-early");
    expect(told("CERT_HAS_EXPIRED", "certificate has expired")).toBe("tls-untrusted");
    expect(told("", "something new")).toBe("unexplained");
    expect(reachCauseOf(undefined)).toBe("unexplained");
  });

  it("is given up after its patience where a program hangs and takes nobody in any more", async () => {
    const script =
      'require("net").createServer().listen({ port: 0, host: "127.0.0.1", backlog: 1 }, function () { console.log(this.address().port) })';
    const child = spawn(process.execPath, ["-e", script], { stdio: ["ignore", "pipe", "inherit"] });
    const sockets: Socket[] = [];
    try {
      const [text] = (await once(child.stdout, "data")) as [Buffer];
      child.kill("SIGSTOP");
      // The system takes in a few for a program that does not; then it lets everybody wait.
      for (let n = 0; n < 8; n++) sockets.push(connect(Number(text), "127.0.0.1").on("error", ignore));
      await once(sockets[0] as Socket, "connect");
      expect(await tryTcp("127.0.0.1", Number(text), 300)).toMatchObject({ ok: false, cause: "no-answer" });
    } finally {
      for (const socket of sockets) socket.destroy();
      child.kill("SIGKILL");
    }
  });
});

/** A certificate that nobody trusts, made by OpenSSL when the tests run. */
async function certificate(): Promise<{ key: string; cert: string }> {
  const { execFileSync } = await import("node:child_process");
  const { mkdtempSync, readFileSync, rmSync } = await import("node:fs");
  const { tmpdir } = await import("node:os");
  const { join } = await import("node:path");
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-reach-"));
  try {
    const [key, cert] = [join(folder, "key.pem"), join(folder, "cert.pem")];
    const made = ["req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days", "1"];
    execFileSync("openssl", [...made, "-subj", "/CN=localhost", "-keyout", key, "-out", cert], { stdio: "ignore" });
    return { key: readFileSync(key, "utf8"), cert: readFileSync(cert, "utf8") };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

describe("what limits count as one", () => {
  it("is an IPv6 network, and an IPv4 address by itself however it is written", () => {
    expect(networkOf("2001:db8:0:7::1")).toBe("2001:db8:0:7::/64");
    expect(networkOf("2001:db8:0:7:aaaa:bbbb:cccc:dddd")).toBe("2001:db8:0:7::/64");
    expect(networkOf("2001:db8:0:8::1")).toBe("2001:db8:0:8::/64");
    expect(networkOf("::1")).toBe("0:0:0:0::/64");
    expect(networkOf("fe80::1%eth0")).toBe("fe80:0:0:0::/64");
    expect(networkOf("::ffff:192.0.2.7")).toBe("192.0.2.7");
  });

  it("is this computer alone only by its own addresses and name", () => {
    for (const host of ["127.0.0.1", "127.8.8.8", "::1", "[::1]", "::ffff:127.0.0.1", "localhost"]) {
      expect(isLoopback(host), host).toBe(true);
    }
    for (const host of ["127.example.net", "localhost.example.net", "10.0.0.1", "0.0.0.0", ""]) {
      expect(isLoopback(host), host).toBe(false);
    }
  });
});
