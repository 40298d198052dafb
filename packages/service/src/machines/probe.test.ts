import { createSocket, type Socket } from "node:dgram";
import { once } from "node:events";
import { createServer } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { whyPortIsTaken } from "./port-taken.ts";
import { probe } from "./probe.ts";

const opened: Socket[] = [];
afterEach(() => {
  for (const socket of opened.splice(0)) socket.close();
});

/** A UDP server at a free port of loopback that answers as told, or not at all. */
async function server(answer: (asked: Buffer) => string | Buffer | undefined): Promise<number> {
  const socket = createSocket("udp4");
  opened.push(socket);
  socket.on("message", (asked, from) => {
    const told = answer(asked);
    if (told !== undefined) socket.send(told, from.port, from.address);
  });
  socket.bind(0, "127.0.0.1");
  await once(socket, "listening");
  return socket.address().port;
}

const look = (port: number, more: Partial<Parameters<typeof probe>[0]> = {}) =>
  probe({
    address: { host: "127.0.0.1", port, transport: "udp" },
    probe: { send: { text: "status" } },
    patienceMs: 5_000,
    isWanted: () => true,
    ...more,
  });

describe("probing an instance by UDP", () => {
  it("sends what its build says, as text or as bytes, and takes any answer where none is described", async () => {
    const heard: string[] = [];
    const port = await server((asked) => {
      heard.push(asked.toString("hex"));
      return "here";
    });
    expect(await look(port)).toMatchObject({ reached: true, detail: expect.stringMatching(/, with 4 bytes$/) });
    expect((await look(port, { probe: { send: { hex: "ffffffff54" } } })).reached).toBe(true);
    expect(heard).toEqual([Buffer.from("status").toString("hex"), "ffffffff54"]);
  });

  it("asks again until it is answered: datagrams are lost, and servers are still loading", async () => {
    let asked = 0;
    const port = await server(() => {
      asked += 1;
      return asked < 3 ? undefined : "late";
    });
    expect((await look(port)).detail).toMatch(/^reached at attempt 3 /);
  });

  it("matches the answer byte by byte, and shows the one that did not match", async () => {
    const port = await server(() => Buffer.from([0xff, 0xff, 0x49, 0x07]));
    const asked = { send: { hex: "ff" }, answer: "^\\xFF\\xFFI" };
    expect((await look(port, { probe: asked })).reached).toBe(true);
    const told = await look(port, { probe: { ...asked, answer: "^status" }, patienceMs: 0 });
    expect(told).toMatchObject({ reached: false });
    expect(told.detail).toMatch(
      /^127\.0\.0\.1:\d+\/udp did not answer in 1 attempts .*the answer "\.\.I\." is not what/,
    );
  });

  it("says that nobody listens, or that nothing comes back, and stops when nobody wants to know any more", async () => {
    const silent = await server(() => undefined);
    expect((await look(silent, { patienceMs: 0 })).detail).toContain("(no answer comes)");
    let tries = 0;
    const told = await look(silent, { patienceMs: 60_000, isWanted: () => ++tries < 2 });
    expect(told.detail).toContain("did not answer in 2 attempts");
    const [socket] = opened.splice(0);
    await new Promise((resolve) => socket?.close(() => resolve(undefined)));
    expect((await look(silent, { patienceMs: 0 })).detail).toContain("(nothing listens there)");
  });

  it("believes a server without a probe, since a UDP port shows nothing", async () => {
    expect(await look(9, { probe: undefined })).toEqual({
      reached: true,
      detail: "ready by its own word; it speaks UDP, and its build has no probe",
    });
  });
});

describe("a port that is taken", () => {
  // On a busy machine somebody else's socket may speak the other on a port that was given out by chance: then another is tried.
  it("is taken for what speaks there, and free for the other", { retry: 3 }, async () => {
    const port = await server(() => undefined);
    expect(await whyPortIsTaken(port, "udp")).toBe("EADDRINUSE");
    expect(await whyPortIsTaken(port, "tcp")).toBeUndefined();
    const tcp = createServer().listen(0, "127.0.0.1");
    try {
      await once(tcp, "listening");
      const { port: other } = tcp.address() as { port: number };
      expect(await whyPortIsTaken(other, "websocket")).toBe("EADDRINUSE");
      expect(await whyPortIsTaken(other, "udp")).toBeUndefined();
    } finally {
      tcp.close();
    }
  });
});
