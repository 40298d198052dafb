import { problem } from "@yellow-harbor/protocol";
import { expect, it } from "vitest";
import {
  type FromWorker,
  readFromWorker,
  readToWorker,
  type ToWorker,
  writeFromWorker,
  writeToWorker,
} from "./messages.ts";

const why = problem("taken-over", "The player\tconnected\nagain elsewhere.");
const text = JSON.stringify({ frame: "notice", text: "tab\tand\nline, ü, \u2028" });

it.each<ToWorker>([
  { to: "frame", connections: [7], content: text },
  { to: "frame", connections: [1, 22, 333], content: text },
  { to: "frame", connections: [4, 5], content: Buffer.from([1, 9, 10, 13, 0, 255]) },
  { to: "refuse", connection: 4, id: 12, problem: why },
  { to: "refuse", connection: 4, id: 0, problem: why },
  { to: "refuse", connection: 4, id: undefined, problem: why },
  { to: "close", connection: 5, problem: why },
  { to: "close-normally", connection: 6 },
  { to: "clock", atMs: 1_795_942_261_570.25 },
])("what goes to a worker is one line, and read as it was written: $to", (message) => {
  const line = writeToWorker(message);
  expect(line).not.toContain("\n");
  expect(readToWorker(line)).toEqual(message);
});

it.each<FromWorker>([
  { from: "hello", connection: 9, hello: { frame: "hello", wire: 1, name: "Ansel\tof\nthe Quay", build: "game-1" } },
  {
    from: "request",
    connection: 10,
    bytes: 71,
    request: { id: 3, ask: "lobby.chat", args: { text: "a\tb" } },
  },
  { from: "relayed", connection: 9, message: { to: { side: "north" }, body: Buffer.from([9, 10, 255]) } },
  { from: "relayed", connection: 9, message: { to: "others", body: Buffer.alloc(0) } },
  { from: "measured", connection: 11, latency: { latencyMs: 31.2, jitterMs: 2.1 } },
  { from: "silent", connection: 12, isSilent: true },
  { from: "silent", connection: 12, isSilent: false },
  { from: "closed", connection: 13 },
  { from: "ready" },
  { from: "figures", figures: { memoryBytes: 71_000_000, cpuSeconds: 1.25, loopDelayMs: 0.4 } },
])("what comes from one is as well: $from", (message: FromWorker) => {
  const line = writeFromWorker(message);
  expect(line).not.toContain("\n");
  expect(readFromWorker(line)).toEqual(message);
});
