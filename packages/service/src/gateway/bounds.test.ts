import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { rawClient } from "../testing/raw-client.ts";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";
import { whyBusy } from "./admission.ts";

afterEach(endAll);

const roomy = () =>
  testConfig("good", (one) => ({
    ...one,
    players: {
      ...one.players,
      framesPerSecond: 100_000,
      perAddress: { ...one.players.perAddress, connections: 1_000, sockets: 1_000, perSecond: 1_000 },
    },
  }));

/** Keeps the journal from being written until what comes back is called. */
function holdDisk({ data }: TestService): () => void {
  const sqlite = new Database(join(data, "harbor.sqlite"));
  sqlite.exec("BEGIN IMMEDIATE");
  return () => {
    sqlite.exec("ROLLBACK");
    sqlite.close();
  };
}

async function enter(service: TestService, name: string) {
  const client = await rawClient(service.url);
  client.send({ frame: "hello", wire: 1, name, build: "game-1" });
  await client.frame("welcome");
  return client;
}

/** How the first newcomer that is not taken is told so: those who come before all the others have been read are kept waiting. */
async function refusalOfNewcomer(service: TestService) {
  for (;;) {
    const newcomer = await rawClient(service.url);
    newcomer.send({ frame: "hello", wire: 1, name: "Late", build: "game-1" });
    const refusal = await Promise.race([newcomer.closed(), wait(50)]);
    if (refusal !== undefined) return refusal;
  }
}

describe("what is under way", () => {
  it("of one connection is bounded, and nothing of what its client sends meanwhile is lost or turned round", async () => {
    const service = await startTestService(roomy());
    const client = await enter(service, "Ansel");
    client.send({ frame: "request", id: 1, ask: "room.open", args: {} });
    await client.frame("reply", 1);
    const release = holdDisk(service);
    const count = 4_000;
    for (let n = 0; n < count; n++) {
      const args = { key: `mark.${n % 8}`, value: "x".repeat(2_000) };
      client.send({ frame: "request", id: 2 + n, ask: "board.set", args });
    }
    // All of it was sent; what the service does not read stays on the way.
    await wait(300);
    expect(client.frames.filter(({ frame }) => frame === "reply")).toHaveLength(1);
    expect(client.socket.bufferedAmount).toBeGreaterThan(0);
    release();
    await client.frame("reply", 1 + count);
    const ids = client.frames.flatMap(({ frame, id }) => (frame === "reply" ? [id] : []));
    expect(ids).toEqual(Array.from({ length: 1 + count }, (_, n) => n + 1));
  });

  it("of a harbor is bounded: newcomers and searches are refused first, who gets ready is not", async () => {
    const service = await startTestService(roomy());
    const crowd = await Promise.all(Array.from({ length: 80 }, (_, n) => enter(service, `Hand ${n}`)));
    const host = await service.player("Host");
    await host.openRoom();
    const release = holdDisk(service);
    // Together more than half of what a harbor takes; whatever follows what has to be written waits with it.
    for (const { send } of crowd) {
      send({ frame: "request", id: 1, ask: "room.open", args: {} });
      for (let id = 2; id <= 40; id++)
        send({ frame: "request", id, ask: "board.set", args: { key: "mark", value: id } });
    }
    expect(await refusalOfNewcomer(service)).toMatchObject({ code: 4504, reason: "harbor-busy" });
    const [first] = crowd;
    first?.send({ frame: "request", id: 99, ask: "lobby.rooms", args: {} });
    expect(await first?.frame("reply", 99)).toMatchObject({ problem: { code: "harbor-busy" } });
    const ready = host.setReady(true);
    release();
    await ready;
    for (const { frame } of crowd) expect(await frame("reply", 40)).toMatchObject({ id: 40 });
  });
});

describe("how busy a harbor may be", () => {
  it.each([
    ["hello", 2_499, true],
    ["hello", 2_500, false],
    ["queue.join", 2_500, false],
    ["resume", 4_999, true],
    ["resume", 5_000, false],
    ["board.set", 4_999, true],
    ["board.set", 5_000, false],
    ["room.ready", 50_000, true],
    ["room.leave", 50_000, true],
  ] as const)("takes %s with %i requests under way: %s", (ask, underWay, isTaken) => {
    expect(whyBusy(ask, underWay)?.code).toBe(isTaken ? undefined : "harbor-busy");
  });
});
