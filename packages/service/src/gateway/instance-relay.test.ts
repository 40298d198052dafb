import { OperatorClient } from "@yellow-harbor/client";
import { RELAY_SUBPROTOCOL, type Transport } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import type { Config } from "../config/schema.ts";
import { endAll, startTestService, startVoyage, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const start = (relay: Partial<Config["instanceRelay"]> = {}, transport: Transport = "tcp") =>
  startTestService(
    testConfig(transport === "tcp" ? "good" : transport, (config) => ({
      ...config,
      builds: { plain: { ...(config.builds.plain as Config["builds"][string]), transport } },
      instanceRelay: { ...config.instanceRelay, enabled: true, ...relay },
    })),
  );

const open = (url: string, path: string, pass: string, protocol = RELAY_SUBPROTOCOL) =>
  new WebSocket(`${url.replace("http", "ws")}${path}`, [protocol, pass]);

const closed = (socket: WebSocket) =>
  new Promise<number>((resolve) => {
    socket.on("error", () => undefined);
    socket.on("close", resolve);
  });

/** The code of the problem with which an upgrade is refused. */
const refusal = (socket: WebSocket) =>
  new Promise<string>((resolve, reject) => {
    socket.on("open", () => reject(new Error("it was not refused")));
    socket.on("error", () => undefined);
    socket.on("unexpected-response", (_request, response) => {
      let text = "";
      response.on("data", (part) => {
        text += part;
      });
      response.on("end", () => resolve(JSON.parse(text).code));
    });
  });

/** Says a line through the relay and resolves with the answer. */
const say = (socket: WebSocket, line: string) =>
  new Promise<Record<string, unknown>>((resolve, reject) => {
    let text = "";
    socket.on("error", reject);
    socket.on("message", (part) => {
      text += String(part);
      if (text.endsWith("\n")) resolve(JSON.parse(text));
    });
    if (socket.readyState === WebSocket.OPEN) socket.send(`${line}\n`);
    else socket.on("open", () => socket.send(`${line}\n`));
  });

describe("the way to an instance through the service", () => {
  it("passes bytes both ways for who has a pass for it, and counts them", async () => {
    const service = await start();
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(a.relay).toBe(`/v1/relay/${a.instance}`);
    for (const pass of [a, b]) {
      const socket = open(service.url, pass.relay ?? "", pass.pass);
      expect(await say(socket, pass.pass)).toMatchObject({ status: 200 });
      socket.close();
    }
    await ansel.until(({ room }) => room?.phase === "playing");
    const { relay } = await service.operator.status();
    expect(relay?.bytesToInstances).toBeGreaterThanOrEqual(a.pass.length + b.pass.length);
    expect(relay?.bytesToPlayers).toBeGreaterThan(0);
  });

  it("passes messages on as they are to an instance that speaks WebSocket, text as text and bytes as bytes", async () => {
    const service = await start({}, "websocket");
    const { ansel, brisa } = await startVoyage(service);
    const [pass] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    const socket = open(service.url, pass.relay ?? "", pass.pass);
    const heard: { data: Buffer; binary: boolean }[] = [];
    socket.on("message", (data: Buffer, binary) => heard.push({ data, binary }));
    await new Promise((resolve) => socket.on("open", resolve));
    socket.send(pass.pass);
    await new Promise((resolve) => socket.once("message", resolve));
    expect(JSON.parse(String(heard[0]?.data))).toMatchObject({ status: 200, body: { player: { name: "Ansel" } } });
    const bytes = Buffer.from([0, 255, 7, 128]);
    socket.send(bytes);
    await new Promise((resolve) => socket.once("message", resolve));
    expect(heard.map(({ binary }) => binary)).toEqual([false, true]);
    expect(heard[1]?.data).toEqual(bytes);
    const ended = closed(socket);
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    expect(await ended).toBe(1000);
  });

  it("passes each message as a datagram to an instance that speaks UDP, and each datagram as a message", async () => {
    const service = await start({}, "udp");
    const { ansel, brisa } = await startVoyage(service);
    const [pass] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(pass.address.transport).toBe("udp");
    const socket = open(service.url, pass.relay ?? "", pass.pass);
    const heard: Buffer[] = [];
    socket.on("message", (data: Buffer) => heard.push(data));
    await new Promise((resolve) => socket.on("open", resolve));
    socket.send(pass.pass);
    await new Promise((resolve) => socket.once("message", resolve));
    expect(JSON.parse(String(heard[0]))).toMatchObject({ status: 200, body: { player: { name: "Ansel" } } });
    // One that is empty is a datagram too; one that is larger than any can be is lost, and nothing else.
    socket.send(Buffer.alloc(0));
    socket.send(Buffer.alloc(200_000));
    const bytes = Buffer.from([0, 255, 7, 128]);
    socket.send(bytes);
    while (heard.length < 3) await new Promise((resolve) => socket.once("message", resolve));
    expect(heard.slice(1)).toEqual([Buffer.alloc(0), bytes]);
    const { relay } = await service.operator.status();
    expect(relay?.bytesToPlayers).toBe((heard[0]?.length ?? 0) + 4);
    socket.close();
  });

  it("is shut for passes that are forged, for another instance, or of nobody any more", async () => {
    const service = await start();
    const { ansel, brisa } = await startVoyage(service);
    const [pass] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    const { relay = "", pass: token } = pass;
    expect(await refusal(open(service.url, relay, `${token.slice(0, -20)}${"A".repeat(20)}`))).toBe("pass-invalid");
    expect(await refusal(open(service.url, "/v1/relay/i_000000000000", token))).toBe("pass-foreign");
    expect(await refusal(open(service.url, relay, token, "something.else"))).toBe("wire-unsupported");
    await ansel.leaveRoom();
    expect(await refusal(open(service.url, relay, token))).toBe("berth-unknown");
  });

  it("is off by default, and then no pass tells of it", async () => {
    const service = await startTestService();
    const { ansel, brisa } = await startVoyage(service);
    const [pass] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(pass.relay).toBeUndefined();
    expect(await refusal(open(service.url, `/v1/relay/${pass.instance}`, pass.pass))).toBe("relay-off");
    expect((await new OperatorClient({ url: service.url }).status()).relay).toBeUndefined();
  });

  it("takes so many at once, and closes those on which nothing passes", async () => {
    const service = await start({ connections: 1, idleMs: 300 });
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    const socket = open(service.url, a.relay ?? "", a.pass);
    await new Promise((resolve) => socket.on("open", resolve));
    const idle = closed(socket);
    expect(await refusal(open(service.url, b.relay ?? "", b.pass))).toBe("relay-full");
    expect(await idle).toBe(1001);
    expect((await service.operator.status()).relay?.connections).toBe(0);
  });

  it("holds bytes back that come faster than they may, and loses none", async () => {
    const { paced, Pace } = await import("./pace.ts");
    const { Readable } = await import("node:stream");
    let counted = 0;
    const pace = new Pace(100_000, (bytes) => {
      counted += bytes;
    });
    const chunks = Array.from({ length: 12 }, (_, n) => Buffer.alloc(10_000, n));
    const got: Buffer[] = [];
    const begin = performance.now();
    for await (const chunk of Readable.from(chunks).pipe(paced(pace))) got.push(chunk as Buffer);
    expect(Buffer.concat(got)).toEqual(Buffer.concat(chunks));
    expect(counted).toBe(120_000);
    // One second's worth passes at once; the rest waits for its time.
    expect(performance.now() - begin).toBeGreaterThan(150);
  });
});
