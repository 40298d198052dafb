import type { Socket } from "node:net";
import { deflateRawSync } from "node:zlib";
import { WIRE_SUBPROTOCOL } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const compressing = () =>
  testConfig("good", (one) => Config.parse({ ...one, players: { ...one.players, compression: { minBytes: 128 } } }));

/** A client of its own that says hello, with what it has read of its socket. */
async function come(service: TestService, name: string, perMessageDeflate: boolean) {
  const socket = new WebSocket(`ws://127.0.0.1:${service.port}/v1/play`, [WIRE_SUBPROTOCOL], { perMessageDeflate });
  const frames: { frame: string; [key: string]: unknown }[] = [];
  const untilFrame = (fits: (one: (typeof frames)[number]) => boolean) =>
    new Promise<void>((resolve) => {
      const look = () => frames.some(fits) && resolve();
      socket.on("message", look);
      look();
    });
  socket.on("message", (data) => frames.push(JSON.parse(String(data))));
  await new Promise((resolve) => socket.once("open", resolve));
  const raw = (socket as unknown as { _socket: Socket })._socket;
  socket.send(JSON.stringify({ frame: "hello", wire: 1, build: "game-1", name }));
  await untilFrame(({ frame }) => frame === "welcome");
  const ask = (id: number, what: string, args: object) => {
    socket.send(JSON.stringify({ frame: "request", id, ask: what, args }));
    return untilFrame((one) => one.frame === "reply" && one["id"] === id);
  };
  return { socket, raw, frames, ask, untilFrame, bytes: () => raw.bytesRead };
}

describe("compression", () => {
  it.each([1, 2])(
    "takes fewer bytes to those who offer it, and says the same to everybody, in %i processes",
    async (workers) => {
      const service = await startTestService(compressing(), { workers });
      const ansel = await service.player("Ansel");
      const { room } = await ansel.openRoom({ capacity: 4 });
      const [small, plain] = [await come(service, "Brisa", true), await come(service, "Corin", false)];
      expect([small.socket.extensions, plain.socket.extensions]).toEqual([
        expect.stringContaining("permessage-deflate"),
        "",
      ]);
      for (const one of [small, plain]) await one.ask(1, "room.join", { room: room.id });
      const before = [small.bytes(), plain.bytes()];
      const text = "the tide comes in, the tide goes out; ".repeat(20);
      for (let n = 0; n < 5; n++) await ansel.board.set("tide", { n, text });
      for (const one of [small, plain])
        await one.untilFrame(
          ({ patch }) => (patch as { board?: { tide?: { box?: { n: number }[] } } })?.board?.tide?.box?.[0]?.n === 4,
        );
      const updates = ({ frames }: typeof small) =>
        frames.filter((one) => (one["event"] as { kind?: string } | undefined)?.kind === "board-changed");
      expect(updates(small)).toEqual(updates(plain));
      expect(updates(small)).toHaveLength(5);
      expect(small.bytes() - (before[0] ?? 0)).toBeLessThan((plain.bytes() - (before[1] ?? 0)) / 2);
      // What such a client sends comes compressed as well.
      await small.ask(2, "board.set", { key: "long", value: "so it was ".repeat(150) });
      await ansel.until(({ room: now }) => now?.board["long"] !== undefined);
      expect(ansel.board.value("long")).toHaveLength(1_500);
    },
  );

  it("unpacks no more than a frame may have: few bytes that stand for many close the connection, and nothing else", async () => {
    const service = await startTestService(compressing());
    const ansel = await service.player("Ansel");
    const { socket, raw } = await come(service, "Brisa", true);
    const bomb = deflateRawSync(Buffer.alloc(50_000_000, 0x20), { finishFlush: 2 });
    const mask = Buffer.from([1, 2, 3, 4]);
    const masked = bomb.map((byte, n) => byte ^ (mask[n % 4] ?? 0));
    const head = Buffer.from([0xc1, 0xff, ...Buffer.alloc(8), ...mask]);
    head.writeBigUInt64BE(BigInt(bomb.length), 2);
    const closed = new Promise<number>((resolve) => socket.once("close", resolve));
    raw.write(Buffer.concat([head, masked]));
    expect(await closed).toBe(1009);
    expect((await ansel.listLevels()).levels.length).toBeGreaterThan(0);
  });

  it("is off unless it is configured", async () => {
    const { socket } = await come(await startTestService(), "Brisa", true);
    expect(socket.extensions).toBe("");
  });
});
