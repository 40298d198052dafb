import { createSocket, type Socket } from "node:dgram";
import { once } from "node:events";
import { measureEcho } from "@yellow-harbor/client";
import { ECHO_MARK, ECHO_SUBPROTOCOL } from "@yellow-harbor/protocol";
import { udpRoundTrips } from "@yellow-harbor/reach";
import { afterEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { startEchoStation } from "./station.ts";
import { UdpEcho } from "./udp-echo.ts";

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
  await endAll();
});

const ways = {
  url: "http://127.0.0.1:1",
  socket: (url: string, subprotocol: string) => new WebSocket(url, subprotocol) as never,
  udp: udpRoundTrips,
};

const station = async () => {
  const found = await startEchoStation({ port: 0, host: "127.0.0.1" });
  closing.push(() => found.close());
  return found;
};

describe("an echo", () => {
  it("is answered by the service itself, and by a station of its own, by WebSocket and by UDP", async () => {
    const service = await startTestService();
    const { port } = await station();
    for (const url of [
      `${service.url.replace("http", "ws")}/v1/echo`,
      `ws://127.0.0.1:${port}`,
      `udp://127.0.0.1:${port}`,
    ]) {
      const measured = await measureEcho([url], ways);
      expect(measured, url).toMatchObject({ latencyMs: expect.any(Number), jitterMs: expect.any(Number) });
      expect(measured?.latencyMs, url).toBeGreaterThanOrEqual(0);
    }
  });

  it("is taken from the first address that answers, and is none when none does", async () => {
    const { port } = await station();
    expect(await measureEcho(["ws://127.0.0.1:1", `udp://127.0.0.1:${port}`], ways)).toBeDefined();
    expect(await measureEcho(["ws://127.0.0.1:1"], ways)).toBeUndefined();
    // A platform without UDP passes such an address over.
    expect(await measureEcho([`udp://127.0.0.1:${port}`], { ...ways, udp: undefined })).toBeUndefined();
  });

  it("comes back as it was, so often and no oftener, and not when it is too large", async () => {
    const service = await startTestService();
    const open = async () => {
      const socket = new WebSocket(`${service.url.replace("http", "ws")}/v1/echo`, ECHO_SUBPROTOCOL);
      await once(socket, "open");
      return socket;
    };
    const socket = await open();
    const heard: string[] = [];
    socket.on("message", (data) => heard.push(String(data)));
    for (let n = 0; n < 60; n++) socket.send(`n${n}`);
    expect((await once(socket, "close"))[0]).toBe(1008);
    expect(heard).toEqual(Array.from({ length: 40 }, (_, n) => `n${n}`));
    const other = await open();
    other.send("x".repeat(65));
    expect((await once(other, "close"))[0]).toBe(1009);
  });

  it("by UDP is no weapon: nothing without the mark is answered, nothing longer, and a network only so often", async () => {
    const echo = await UdpEcho.open(0, "127.0.0.1");
    closing.push(() => echo.close());
    const socket: Socket = createSocket("udp4");
    closing.push(() => socket.close());
    socket.connect(echo.port, "127.0.0.1");
    await once(socket, "connect");
    const heard: string[] = [];
    socket.on("message", (data) => heard.push(data.toString()));
    for (const text of ["hello", "", `${ECHO_MARK}${"x".repeat(61)}`, `x${ECHO_MARK}`]) socket.send(text);
    for (let n = 0; n < 200; n++) socket.send(`${ECHO_MARK}${n}`);
    // What the next second lets through again comes after all of the first.
    while (!heard.includes(`${ECHO_MARK}again`)) {
      socket.send(`${ECHO_MARK}again`);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    const first = heard.filter((text) => text !== `${ECHO_MARK}again`);
    expect(first.length).toBeLessThanOrEqual(100);
    expect(first.slice(0, 50)).toEqual(Array.from({ length: 50 }, (_, n) => `${ECHO_MARK}${n}`));
  });
});

describe("regions", () => {
  it("are told to players with where to measure them, and measured side by side", async () => {
    const { port } = await station();
    const config = testConfig("good", (one) =>
      Config.parse({
        ...one,
        regions: {
          "north-quay": { title: "North Quay", echo: [`udp://127.0.0.1:${port}`] },
          "south-quay": { echo: ["ws://127.0.0.1:1", `ws://127.0.0.1:${port}`] },
          "far-light": { echo: ["ws://127.0.0.1:1"] },
          "own-quay": { echo: ["/v1/echo"] },
          nowhere: {},
        },
      }),
    );
    const service = await startTestService(config);
    const ansel = await service.player("Ansel", { udpEchoes: udpRoundTrips });
    const { regions } = await ansel.regions.list();
    expect(regions.map(({ id, title }) => [id, title])).toEqual([
      ["north-quay", "North Quay"],
      ...["south-quay", "far-light", "own-quay", "nowhere"].map((id) => [id, undefined]),
    ]);
    expect(await service.operator.regions()).toEqual({ regions });
    expect(Object.keys(await ansel.regions.measure()).sort()).toEqual(["north-quay", "own-quay", "south-quay"]);
    expect(Object.keys(ansel.regions.latencyMs)).toHaveLength(3);
  });
});
