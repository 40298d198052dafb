import { copyFileSync } from "node:fs";
import { request } from "node:http";
import { get } from "node:https";
import { join } from "node:path";
import { connect } from "node:tls";
import { PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { Config } from "../config/schema.ts";
import { makeCertificate } from "../testing/test-certificate.ts";
import { testPorts } from "../testing/test-ports.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

async function overTls(more: object = {}) {
  const folder = temporaryFolder();
  const files = makeCertificate(folder);
  const config = testConfig("good", (one) =>
    Config.parse({ ...one, listen: { port: 0, url: "https://localhost:7420", tls: { ...files, ...more } } }),
  );
  return { service: await startTestService(config), files, folder };
}

const INSECURE = { rejectUnauthorized: false };

const ask = (url: string) =>
  new Promise<{ status: number | undefined; headers: NodeJS.Dict<string | string[]> }>((resolve, reject) => {
    get(url, INSECURE, (response) => {
      response.resume();
      resolve({ status: response.statusCode, headers: response.headers });
    }).on("error", reject);
  });

const nameShown = (port: number, options = {}) =>
  new Promise<string>((resolve, reject) => {
    const socket = connect({ port, host: "127.0.0.1", ...INSECURE, ...options }, () => {
      resolve(String(socket.getPeerCertificate().subject.CN));
      socket.destroy();
    }).on("error", reject);
  });

describe("TLS by the service itself", () => {
  it("serves players, and tells browsers to come by it alone where that is asked for", async () => {
    const { service } = await overTls({ hstsDays: 30 });
    expect(service.url).toMatch(/^https:/);
    const { status, headers } = await ask(`${service.url}/readyz`);
    expect([status, headers["strict-transport-security"]]).toEqual([200, "max-age=2592000"]);
    const ansel = await PlayerClient.connect({
      url: service.url,
      name: "Ansel",
      build: "game-1",
      reconnect: false,
      socket: async (url, protocol) => new WebSocket(url, protocol, INSECURE) as never,
    });
    expect((await ansel.openRoom()).room.phase).toBe("gathering");
    ansel.drop();
  });

  it("speaks no version of TLS that is broken, and answers plain HTTP with nothing", async () => {
    const { service } = await overTls();
    await expect(nameShown(service.port, { maxVersion: "TLSv1.1" })).rejects.toThrow();
    const plain = await new Promise<string>((resolve) => {
      request({ port: service.port, host: "127.0.0.1" })
        .on("error", ({ message }) => resolve(message))
        .end();
    });
    expect(plain).toMatch(/socket hang up|ECONNRESET/);
    expect((await ask(`${service.url}/readyz`)).status).toBe(200);
  });

  it("takes a new certificate without a restart, and keeps the old one when the new one cannot be used", async () => {
    const { service, files, folder } = await overTls();
    expect(await nameShown(service.port)).toBe("localhost");
    const other = makeCertificate(folder, "renewed");
    // Half of it is there: the key does not fit yet.
    copyFileSync(other.certFile, files.certFile);
    copyFileSync(other.keyFile, files.keyFile);
    await expect.poll(() => nameShown(service.port), { timeout: 30_000, interval: 200 }).toBe("renewed");
  });

  it("sends whoever comes without it to the same address with it", async () => {
    const redirectPort = testPorts();
    await overTls({ redirectPort });
    const location = await new Promise((resolve, reject) => {
      request({ port: redirectPort, host: "127.0.0.1", path: "/v1/rooms?lobby=x" }, (response) => {
        response.resume();
        resolve([response.statusCode, response.headers.location]);
      })
        .on("error", reject)
        .end();
    });
    expect(location).toEqual([308, "https://localhost:7420/v1/rooms?lobby=x"]);
  });

  it("says what is wrong of its files before it starts", async () => {
    const folder = temporaryFolder();
    const [one, other] = [makeCertificate(folder, "one"), makeCertificate(folder, "other")];
    for (const [tls, why] of [
      [{ ...one, keyFile: other.keyFile }, /the key in .*other.key is not that of the certificate/],
      [{ ...one, certFile: join(folder, "none") }, /ENOENT/],
    ] as const) {
      const config = testConfig("good", (base) =>
        Config.parse({ ...base, listen: { port: 0, url: "https://localhost:7420", tls } }),
      );
      await expect(startTestService(config)).rejects.toMatchObject({
        code: "config-invalid",
        message: expect.stringMatching(why),
      });
    }
  });
});
