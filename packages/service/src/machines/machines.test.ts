import { spawn } from "node:child_process";
import { appendFileSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { followOutput } from "../api/follow-output.ts";
import { outputOf } from "./output-file.ts";
import { Polls } from "./polls.ts";
import { probe } from "./probe.ts";
import { isRunning, startedAt } from "./process-info.ts";

const cleanUps: (() => void)[] = [];
afterEach(() => {
  for (const clean of cleanUps.splice(0)) clean();
});

const never = new AbortController().signal;

/** A port of loopback that is probed by TCP. */
const byTcp = (port: number, patienceMs: number, isWanted = () => true) =>
  probe({ address: { host: "127.0.0.1", port }, probe: undefined, patienceMs, isWanted });

describe("a probe", () => {
  it("reaches a port that opens a little later than it is asked for", async () => {
    const server = createServer((socket) => socket.destroy());
    cleanUps.push(() => server.close());
    const port = await new Promise<number>((resolve) =>
      server.listen(0, "127.0.0.1", () => resolve((server.address() as { port: number }).port)),
    );
    await new Promise<void>((resolve) => server.close(() => resolve()));
    const probing = byTcp(port, 5_000);
    setTimeout(() => server.listen(port, "127.0.0.1"), 150);
    expect(await probing).toMatchObject({ reached: true, detail: expect.stringMatching(/^reached at attempt [2-9]/) });
  });

  it("gives up after its patience, and says what it met", async () => {
    expect(await byTcp(1, 250)).toMatchObject({
      reached: false,
      detail: expect.stringMatching(
        /^127\.0\.0\.1:1 did not answer in \d+ attempts over \d+ ms \(nothing listens there\)$/,
      ),
    });
  });

  it("ends when it is called off", async () => {
    let isWanted = true;
    const probing = byTcp(1, 60_000, () => isWanted);
    isWanted = false;
    expect((await probing).reached).toBe(false);
  });
});

describe("polls", () => {
  it("are answered by instructions, by time, or by the next poll of the same instance", async () => {
    const polls = new Polls();
    const answers: [string, number][] = [];
    const hold = (name: string, waitMs: number) =>
      polls.hold("i_1", waitMs, (instructions) => answers.push([name, instructions.length]));
    hold("first", 60_000);
    hold("second", 60_000);
    expect(answers).toEqual([["first", 0]]);
    polls.answer("i_1", [{ number: 1, instruction: "stop", reason: "over" }]);
    expect(answers.at(-1)).toEqual(["second", 1]);
    await new Promise<void>((resolve) => polls.hold("i_1", 5, () => resolve()));
    polls.answer("i_1", []);
    expect(answers).toHaveLength(2);
  });

  it("count the silence from the last sign of life, and none while one is open", () => {
    const polls = new Polls();
    expect(polls.silentForMs("i_1", 9_000)).toBe(0);
    polls.expect("i_1", 1_000);
    polls.expect("i_1", 5_000);
    expect(polls.silentForMs("i_1", 9_000)).toBe(8_000);
    polls.hear("i_1", 8_500);
    expect(polls.silentForMs("i_1", 9_000)).toBe(500);
    const letGo = polls.hold("i_1", 60_000, () => undefined);
    expect(polls.silentForMs("i_1", 90_000)).toBe(0);
    letGo();
    expect(polls.silentForMs("i_1", 90_000)).toBe(81_500);
    polls.forget("i_1");
    expect(polls.silentForMs("i_1", 90_000)).toBe(0);
  });
});

describe("a process", () => {
  it("is known by its id and its start, and is gone once it has ended", async () => {
    expect(await isRunning(process.pid)).toBe(true);
    const child = spawn(process.execPath, ["-e", "setInterval(() => undefined, 1000)"], { stdio: "ignore" });
    const pid = child.pid ?? 0;
    const ended = new Promise((resolve) => child.once("exit", resolve));
    const started = await startedAt(pid);
    expect(await isRunning(pid)).toBe(true);
    expect(await startedAt(pid)).toBe(started);
    child.kill("SIGKILL");
    await ended;
    expect(await isRunning(pid)).toBe(false);
    expect(await startedAt(pid)).toBeUndefined();
  });

  it("that has ended and was never reaped does not run, though its id is still taken", async () => {
    // What the shell becomes knows nothing of the child it has, and reaps none.
    const parent = spawn("sh", ["-c", "sleep 0.2 & echo $!; exec sleep 30"], { stdio: ["ignore", "pipe", "ignore"] });
    try {
      const pid = await new Promise<number>((resolve) => parent.stdout.once("data", (text) => resolve(Number(text))));
      await vi.waitUntil(async () => (await startedAt(pid)) === "zombie", { timeout: 30_000, interval: 10 });
      expect(() => process.kill(pid, 0)).not.toThrow();
      expect(await isRunning(pid)).toBe(false);
      expect(await isRunning(parent.pid ?? 0)).toBe(true);
    } finally {
      parent.kill("SIGKILL");
    }
  });
});

describe("output that is followed", () => {
  const folder = () => {
    const made = mkdtempSync(join(tmpdir(), "yellow-harbor-output-"));
    cleanUps.push(() => rmSync(made, { recursive: true, force: true }));
    return made;
  };
  const readAll = async (source: AsyncGenerator<Buffer>) => {
    let text = "";
    for await (const chunk of source) text += chunk;
    return text;
  };

  it("begins so many bytes from the end, and ends at the end when it is not to go on", async () => {
    const file = join(folder(), "output.log");
    writeFileSync(file, "one two three");
    expect(await readAll(followOutput(outputOf(file), { tailBytes: 5, goesOn: async () => false, abort: never }))).toBe(
      "three",
    );
    expect(await readAll(followOutput(outputOf(file), { tailBytes: 0, goesOn: async () => false, abort: never }))).toBe(
      "",
    );
  });

  it("of a file that is not there is empty", async () => {
    expect(
      await readAll(
        followOutput(outputOf(join(folder(), "none")), { tailBytes: 100, goesOn: async () => false, abort: never }),
      ),
    ).toBe("");
  });

  it("goes on with what is added, and reads what was added last before it ends", async () => {
    const file = join(folder(), "output.log");
    writeFileSync(file, "first ");
    let asked = 0;
    const goesOn = async () => {
      asked += 1;
      appendFileSync(file, `part ${asked} `);
      return asked < 3;
    };
    expect(await readAll(followOutput(outputOf(file), { tailBytes: 100, goesOn, abort: never }))).toBe(
      "first part 1 part 2 part 3 ",
    );
  });
});
