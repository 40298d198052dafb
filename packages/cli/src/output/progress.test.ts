import { Readable, Writable } from "node:stream";
import { describe, expect, it, vi } from "vitest";
import { withIo } from "../io.ts";
import { progressOf, waitingFor } from "./progress.ts";

function screen(isTTY: boolean) {
  let text = "";
  const err = new Writable({
    write: (chunk, _encoding, done) => {
      text += String(chunk);
      done();
    },
  });
  const own = { in: Readable.from([]), out: err, err: Object.assign(err, { isTTY }), exitCode: 0 };
  return { own, said: () => text };
}

describe("progress", () => {
  it("of what takes more than a second is said on a terminal, and gone at the end", async () => {
    vi.useFakeTimers({ toFake: ["setInterval", "clearInterval", "performance"] });
    const { own, said } = screen(true);
    await withIo(own, async () => {
      let finish: (value: number) => void = () => undefined;
      const work = new Promise<number>((resolve) => {
        finish = resolve;
      });
      const waited = waitingFor("Reading the journal", () => work);
      vi.advanceTimersByTime(2_100);
      finish(7);
      expect(await waited).toBe(7);
    });
    expect(said()).toMatch(/Reading the journal \.\.\. 0 s.*\.\.\. 1 s.*\.\.\. 2 s.*\[K$/s);
    vi.useRealTimers();
  });

  it("is in no pipe", async () => {
    vi.useFakeTimers({ toFake: ["setInterval", "clearInterval", "performance"] });
    const { own, said } = screen(false);
    await withIo(own, async () => {
      const progress = progressOf((done) => `${done} written`);
      vi.advanceTimersByTime(5_000);
      progress(3);
      expect(await waitingFor("Reading", async () => 1)).toBe(1);
    });
    expect(said()).toBe("");
    vi.useRealTimers();
  });
});
