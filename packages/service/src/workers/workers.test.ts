import { once } from "node:events";
import { connect, type Socket } from "node:net";
import { availableParallelism } from "node:os";
import { setTimeout as wait } from "node:timers/promises";
import type { PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import { rawClient } from "../testing/raw-client.ts";
import {
  endAll,
  isAlive,
  sayToInstance,
  startTestService,
  startVoyage,
  type TestService,
  testConfig,
} from "../testing/test-service.ts";

afterEach(endAll);

const start = (config = testConfig()) => startTestService(config, { workers: 2 });
const workersOf = async (service: TestService) => (await service.operator.status()).workers?.workers ?? [];

/** Resolves once its workers have so many connections together. */
async function untilConnected(service: TestService, count: number): Promise<void> {
  for (;;) {
    const found = await workersOf(service);
    if (found.reduce((sum, { connections }) => sum + connections, 0) === count) return;
    await wait(20);
  }
}

/** Connects and asks for a WebSocket. */
async function come({ port }: TestService): Promise<Socket> {
  const socket = connect(port, "127.0.0.1");
  await once(socket, "connect");
  const key = "Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==";
  socket.write(`GET /v1/play HTTP/1.1\r\nHost: x\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n${key}\r\n\r\n`);
  return socket;
}

async function comeAndReset(service: TestService): Promise<void> {
  const socket = await come(service);
  await wait(1);
  socket.resetAndDestroy();
}

const until = (player: PlayerClient, event: "lost" | "resumed") => new Promise((resolve) => player.on(event, resolve));

describe.skipIf(availableParallelism() < 2)("a service with workers", () => {
  it("hear the hello of everybody who comes, however many come at the same time", async () => {
    const service = await start();
    // A hello that the service read while it handed the socket over was lost about once in a thousand.
    for (let n = 0; n < 15; n++) {
      const coming = Array.from({ length: 12 }, (_, k) => service.player(`Crew ${n} ${k}`));
      for (const player of await Promise.all(coming)) await player.leave();
    }
    await untilConnected(service, 0);
  });

  it("has its players meet, talk, travel and part as one without, their sockets in another process", async () => {
    const service = await start();
    const { ansel, brisa, room } = await startVoyage(service);
    // Workers tell how many they have now and then.
    await untilConnected(service, 2);
    expect(await workersOf(service)).toHaveLength(1);
    const relayed = new Promise((resolve) => brisa.on("relayed", resolve));
    await ansel.relay({ wave: "left" });
    expect(await relayed).toMatchObject({ from: ansel.id, body: { wave: "left" } });
    const passes = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of passes) await sayToInstance(address, pass);
    await ansel.until((state) => state.room?.phase === "playing");
    expect(await sayToInstance(passes[0].address, "report")).toMatchObject({ status: 200 });
    await brisa.until((state) => state.room?.result !== undefined);
    expect(await service.operator.room(room.id)).toEqual(brisa.state.room);
    await ansel.leave();
    await brisa.until((state) => Object.keys(state.room?.members ?? {}).length === 1);
    await untilConnected(service, 1);
  });

  it("tells what each worker uses, in its state and in the metrics, by its number and not by its process", async () => {
    const service = await start();
    await service.player("Ansel");
    while ((await workersOf(service))[0]?.memoryBytes === undefined) await wait(50);
    const [worker] = await workersOf(service);
    expect(worker).toMatchObject({ number: 1, connections: 1, loopDelayMs: expect.any(Number) });
    expect(worker?.memoryBytes).toBeGreaterThan(10_000_000);
    expect(worker?.cpuSeconds).toBeGreaterThan(0.01);
    const text = await (await fetch(`${service.url}/metrics`)).text();
    expect(text).toMatch(/^yh_worker_sockets\{worker="1"\} 1$/m);
    expect(text).toMatch(/^yh_worker_memory_bytes\{worker="1"\} \d{8,}$/m);
    expect(text).toMatch(/^yh_worker_cpu_seconds\{worker="1"\} 0\.\d+|[1-9]/m);
  });

  it("loses nothing that was acknowledged with a worker: its players resume, and another takes its place", async () => {
    const service = await start();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    await ansel.board.set("tide", 7);
    const [worker] = await workersOf(service);
    const lost = until(ansel, "lost");
    const resumed = until(ansel, "resumed");
    process.kill(worker?.pid ?? 0, "SIGKILL");
    await lost;
    await resumed;
    expect(ansel.state.room).toMatchObject({ id: room.id, board: { tide: { box: [7] } } });
    await ansel.board.set("tide", 8);
    expect((await service.operator.status()).workers).toMatchObject({ replaced: 1 });
    // Who comes and is gone before it can be handed sockets does it no harm.
    for (let n = 0; n < 30; n++) await comeAndReset(service);
    while (!(await workersOf(service))[0]?.isReady) await wait(20);
    expect((await service.operator.status()).workers).toMatchObject({ replaced: 1 });
    // Who comes from now on is with the new one.
    await service.player("Brisa");
    await untilConnected(service, 1);
  });

  it("leaves nobody hanging whose socket was on its way to a worker that ends", async () => {
    const service = await start();
    const [worker] = await workersOf(service);
    process.kill(worker?.pid ?? 0, "SIGSTOP");
    const sockets = await Promise.all(Array.from({ length: 6 }, () => come(service)));
    const closed = Promise.all(sockets.map((socket) => once(socket.on("error", () => undefined).resume(), "close")));
    await untilConnected(service, 6);
    process.kill(worker?.pid ?? 0, "SIGKILL");
    await closed;
  });

  it("refuses what does not fit in the words of one without, and counts connections of an address the same", async () => {
    const config = testConfig("good", (one) => ({
      ...one,
      players: { ...one.players, perAddress: { ...one.players.perAddress, connections: 4 } },
    }));
    const service = await start(config);
    const client = await rawClient(service.url);
    client.socket.send(Buffer.from([1, 2, 3]));
    expect(await client.frame("refused")).toMatchObject({ problem: { code: "frame-unknown" } });
    client.send({ frame: "request", id: 3, ask: "room.leave", args: {} });
    expect(await client.frame("reply", 3)).toMatchObject({ problem: { code: "hello-expected" } });
    client.send({ frame: "hello", wire: 1, name: "Ansel", build: "game-0" });
    expect(await client.closed()).toMatchObject({ reason: "build-unsupported" });
    await untilConnected(service, 0);
    await service.player("Ansel");
    const mute = [await rawClient(service.url), await rawClient(service.url), await rawClient(service.url)];
    await expect(rawClient(service.url)).rejects.toThrow("429");
    mute[0]?.socket.terminate();
    await untilConnected(service, 3);
    await service.player("Brisa");
  });

  it("cuts who does not read, and whose game falls silent is shown so", async () => {
    const config = testConfig("good", (one) => ({
      ...one,
      players: { ...one.players, heartbeatEveryMs: 100, silenceMs: 2_000 },
    }));
    const service = await start(config);
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const mute = await rawClient(service.url);
    mute.send({ frame: "hello", wire: 1, name: "Mute", build: "game-1" });
    const { player } = (await mute.frame("welcome")) as { player: { id: string } };
    mute.send({ frame: "request", id: 1, ask: "room.join", args: { room: room.id } });
    mute.send({ frame: "heartbeat", sentMs: 1 });
    expect(await mute.frame("echo")).toMatchObject({ sentMs: 1, atMs: expect.any(Number) });
    await ansel.until((state) => state.room?.members[player.id]?.attention === "silent");
    mute.send({ frame: "heartbeat", sentMs: 2 });
    await ansel.until((state) => state.room?.members[player.id]?.attention === undefined);
    mute.socket.terminate();
    await ansel.until((state) => state.room?.members[player.id]?.presence === "away");
  });

  it("ends its workers with itself, players being told why", async () => {
    const service = await start();
    const ansel = await service.player("Ansel", { reconnect: false });
    const ended = new Promise((resolve) => ansel.on("ended", resolve));
    const [worker] = await workersOf(service);
    await service.stop();
    expect(await ended).toMatchObject({ problem: { code: "shutting-down" } });
    expect(isAlive(worker?.pid ?? 0)).toBe(false);
  });
});

describe("a number of workers", () => {
  it.each([
    [
      "more than there are processors",
      { workers: 1_000 },
      testConfig(),
      /start the service with --workers \d+ or fewer/,
    ],
    [
      "more than one beside TLS",
      { workers: 2 },
      testConfig("good", (one) => ({
        ...one,
        listen: { ...one.listen, tls: { cert: "a.pem", key: "b.pem" } } as never,
      })),
      /a proxy end TLS/,
    ],
  ])("is refused with what to do: %s", async (_what, options, config, why) => {
    await expect(startTestService(config, options)).rejects.toMatchObject({
      code: "start-refused",
      message: expect.stringMatching(why),
    });
  });
});
