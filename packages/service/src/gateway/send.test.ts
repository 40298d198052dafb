import { connect, createServer, type Socket } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { RateLimit } from "../front-door/rate-limit.ts";
import { Sender } from "./send.ts";

const closers: (() => void)[] = [];
afterEach(() => {
  for (const close of closers.splice(0)) close();
});

/** Two ends of a real connection. */
async function pair(): Promise<{ near: Socket; far: Socket }> {
  const server = createServer();
  const far = new Promise<Socket>((resolve) => server.once("connection", resolve));
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const near = connect((server.address() as { port: number }).port, "127.0.0.1");
  const ends = { near, far: await far };
  closers.push(() => {
    near.destroy();
    ends.far.destroy();
    server.close();
  });
  return ends;
}

describe("a sender", () => {
  it("writes what has gathered in order, and tells whether a frame is the first", async () => {
    const { near, far } = await pair();
    const sender = new Sender(near, 1_000_000);
    expect([
      sender.add(Buffer.from("one,")),
      sender.add(Buffer.from("two,")),
      sender.add(Buffer.from("three")),
    ]).toEqual([true, false, false]);
    const heard = new Promise<string>((resolve) => far.once("data", (bytes) => resolve(String(bytes))));
    expect(sender.flush()).toBe(true);
    expect(await heard).toBe("one,two,three");
    expect(sender.add(Buffer.from("x"))).toBe(true);
  });

  it("with nothing to write does nothing", async () => {
    const { near } = await pair();
    expect(new Sender(near, 10).flush()).toBe(true);
    expect(near.bytesWritten).toBe(0);
  });

  it("says when the other side leaves more unread than it may, and keeps no more than that", async () => {
    const { near, far } = await pair();
    far.pause();
    const sender = new Sender(near, 1_048_576);
    const frame = Buffer.alloc(65_536);
    let flushes = 0;
    for (; flushes < 1_000; flushes++) {
      sender.add(frame);
      if (!sender.flush()) break;
    }
    // What the system takes before it pushes back differs; that it ends well before everything was taken does not.
    expect(flushes).toBeGreaterThan(10);
    expect(flushes).toBeLessThan(1_000);
    expect(near.writableLength).toBeLessThanOrEqual(1_048_576 + frame.length);
  });
});

describe("a sender that has much to say at once", () => {
  it("does not count as unread what the other side had no chance to read", async () => {
    const { near, far } = await pair();
    const sender = new Sender(near, 65_536);
    let heard = 0;
    far.on("data", (bytes) => (heard += bytes.length));
    const answer = Buffer.alloc(3_000_000);
    sender.add(answer);
    expect(sender.flush()).toBe(true);
    await new Promise<void>((resolve) => {
      far.on("data", () => heard >= answer.length && resolve());
    });
    sender.add(answer);
    expect(sender.flush()).toBe(true);
    // Others on top of what is still there are too much.
    far.pause();
    let flushes = 0;
    do {
      sender.add(answer);
      flushes += 1;
    } while (sender.flush() && flushes < 50);
    expect(flushes).toBeLessThan(50);
  });
});

describe("a rate limit", () => {
  it("lets a burst through, then so many a second, and never more for having waited long", () => {
    const limit = new RateLimit(10, 20, 0);
    const taken = (at: number, tries: number) =>
      Array.from({ length: tries }, () => limit.take(at)).filter(Boolean).length;
    expect(taken(0, 50)).toBe(20);
    expect(taken(500, 50)).toBe(5);
    expect(taken(1_000_000, 50)).toBe(20);
  });

  it("does not earn anything when the clock goes back", () => {
    const limit = new RateLimit(10, 1, 1_000);
    expect(limit.take(1_000)).toBe(true);
    expect(limit.take(0)).toBe(false);
  });
});
