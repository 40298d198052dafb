import { once } from "node:events";
import { WIRE_SUBPROTOCOL } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import WebSocket from "ws";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { AddressGate, type AddressQuota } from "./address-gate.ts";

afterEach(endAll);

/** One that comes in, or does not. */
function come(gate: AddressGate, address: string, nowMs = 0): AddressQuota | undefined {
  const admitted = gate.admit(address, nowMs);
  if ("refused" in admitted) return undefined;
  admitted.quota.open += 1;
  return admitted.quota;
}
const isIn = (gate: AddressGate, address: string, nowMs = 0) => come(gate, address, nowMs) !== undefined;

describe("the gate", () => {
  it("lets so many in from one address, and others whatever that one does", () => {
    const gate = new AddressGate({ connections: 2, perSecond: 100 });
    const first = come(gate, "192.0.2.1");
    expect([isIn(gate, "192.0.2.1"), isIn(gate, "192.0.2.1"), isIn(gate, "192.0.2.2")]).toEqual([true, false, true]);
    if (first) first.open -= 1;
    expect(isIn(gate, "192.0.2.1")).toBe(true);
  });

  it("lets them come at a pace, and forgets those who came long ago", () => {
    const gate = new AddressGate({ connections: 100_000, perSecond: 2 });
    const again = (nowMs: number) => isIn(gate, "192.0.2.1", nowMs);
    expect([again(0), again(0), again(0), again(0), again(0), again(499), again(501)]).toEqual([
      ...[true, true, true, true, false, false, true],
    ]);
    // As many strangers as there may be.
    for (let n = 0; n < 30_000; n++) {
      const stranger = come(gate, `198.51.${n >> 8}.${n & 255}`, n * 10);
      if (stranger) stranger.open -= 1;
    }
    expect(again(1_000_000)).toBe(true);
  });
});

const limited = (trustedProxies: string[]) =>
  testConfig("good", (config) => ({
    ...config,
    listen: { ...config.listen, trustedProxies },
    players: { ...config.players, perAddress: { sockets: 10_000, connections: 3, perSecond: 1_000 } },
  }));

/** Connects; resolves to the socket, or to the status and code with which it was refused. */
async function connect(url: string, forwardedFor?: string): Promise<WebSocket | { status: number; code: string }> {
  const headers = forwardedFor === undefined ? {} : { "x-forwarded-for": forwardedFor };
  const socket = new WebSocket(`${url.replace("http", "ws")}/v1/play`, WIRE_SUBPROTOCOL, { headers });
  return new Promise((resolve, reject) => {
    socket.once("open", () => resolve(socket));
    socket.once("error", reject);
    socket.once("unexpected-response", async (_request, response) => {
      let body = "";
      for await (const chunk of response) body += chunk;
      resolve({ status: response.statusCode ?? 0, code: JSON.parse(body).code });
    });
  });
}

describe("a flood of connections", () => {
  it("is refused with a code beyond the limit of its address, and the players who are in do not notice", async () => {
    const service = await startTestService(limited([]));
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom();
    const third = await connect(service.url);
    const flood = await Promise.all(Array.from({ length: 200 }, () => connect(service.url)));
    expect(new Set(flood.map((one) => JSON.stringify(one)))).toEqual(
      new Set([JSON.stringify({ status: 429, code: "too-many-connections" })]),
    );
    await brisa.joinRoom({ room: room.id });
    // A place that is free again is given to the next one.
    if (third instanceof WebSocket) {
      third.close();
      await once(third, "close");
    }
    expect(await connect(service.url)).toBeInstanceOf(WebSocket);
  });

  it("counts by the address that a proxy tells, where there is one, and only there", async () => {
    const proxied = await startTestService(limited(["127.0.0.0/8", "10.9.0.0/16"]));
    for (let n = 0; n < 3; n++)
      expect(await connect(proxied.url, "192.0.2.77, 192.0.2.1, 10.9.9.9")).toBeInstanceOf(WebSocket);
    // What stands before the last address that is none of the proxies' the client may have made up.
    expect(await connect(proxied.url, "192.0.2.78, 192.0.2.1")).toMatchObject({ status: 429 });
    expect(await connect(proxied.url, "192.0.2.2")).toBeInstanceOf(WebSocket);
    const direct = await startTestService(limited([]));
    for (let n = 0; n < 3; n++) expect(await connect(direct.url, `192.0.2.${n}`)).toBeInstanceOf(WebSocket);
    expect(await connect(direct.url, "192.0.2.9")).toMatchObject({ status: 429 });
  });
});
