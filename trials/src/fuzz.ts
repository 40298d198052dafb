// Sends what nobody meant: raw bytes, mutated frames, HTTP requests and configuration files. Fails on a crash, a 5xx, a hang, or an
// error in the service's log: npm run fuzz -- --inputs N [--seed N] [--json].
import { parseArgs } from "node:util";
import type { Random } from "@yellow-harbor/core";
import { writeRelayBytes } from "@yellow-harbor/protocol";
import { parseConfig } from "@yellow-harbor/service";
import { WebSocket } from "ws";
import { bodies, configTexts, frames, paths } from "./corpus.ts";
import { faultOfAnswer, knock } from "./doors.ts";
import { happens, mutateJson, mutateText, oneOf, randomFrom } from "./mutate.ts";
import { ServiceUnderTrial, TRIAL_BUILD } from "./service-under-trial.ts";

const { values } = parseArgs({
  options: {
    inputs: { type: "string", default: "100000" },
    seed: { type: "string", default: String(Date.now() % 1_000_000) },
    json: { type: "boolean", default: false },
  },
});
const [inputs, seed] = [Number(values.inputs), Number(values.seed)];
const say = (text: string) => process.stderr.write(`${text}\n`);
const ANSWER_MS = 10_000;
const AT_ONCE = 8;

const faults = new Map<string, number>();
const fault = (what: string) => faults.set(what, (faults.get(what) ?? 0) + 1);
const counted = { frames: 0, requests: 0, configurations: 0, knocks: 0, closed: 0 };
const statuses = new Map<number, number>();

const service = new ServiceUnderTrial();
await service.start();
say(`${inputs} inputs to ${service.url}, seed ${seed}`);
try {
  const lanesOf = (share: number) => Math.floor((inputs * share) / AT_ONCE) * AT_ONCE;
  const shares = { frames: lanesOf(0.55), requests: lanesOf(0.2), knocks: lanesOf(0.05) };
  fuzzConfigurations(inputs - shares.frames - shares.requests - shares.knocks);
  await Promise.all(Array.from({ length: AT_ONCE }, (_, n) => fuzzDoors(n, Math.ceil(shares.knocks / AT_ONCE))));
  await Promise.all(Array.from({ length: AT_ONCE }, (_, n) => fuzzFrames(n, Math.ceil(shares.frames / AT_ONCE))));
  await Promise.all(Array.from({ length: AT_ONCE }, (_, n) => fuzzRequests(n, Math.ceil(shares.requests / AT_ONCE))));
  await stillAnswers("afterwards");
} catch (error) {
  fault(String((error as Error).message));
} finally {
  if (!service.isRunning) fault("the service is gone");
  for (const line of service.complaints) fault(`logged: ${line.slice(0, 200)}`);
  await service.dispose();
}

const ok = faults.size === 0;
const report = {
  ok,
  inputs: counted.frames + counted.requests + counted.configurations + counted.knocks,
  ...counted,
  seed,
};
const more = { statuses: Object.fromEntries(statuses), faults: Object.fromEntries(faults) };
if (values.json) console.log(JSON.stringify({ ...report, ...more }));
else
  for (const [name, value] of Object.entries({ ...report, ...more }))
    console.log(`${name.padEnd(15)} ${typeof value === "object" ? JSON.stringify(value) : value}`);
process.exit(ok ? 0 : 1);

/** A file is right or has faults with a place; it never makes the reader throw. */
function fuzzConfigurations(count: number): void {
  const chance = randomFrom(seed);
  for (let n = 0; n < count; n++) {
    const text = mutateText(chance, oneOf(chance, configTexts));
    counted.configurations += 1;
    try {
      const parsed = parseConfig(text);
      if (!parsed.ok && parsed.faults.length === 0) fault("a configuration was refused without a reason");
    } catch (error) {
      fault(`a configuration made the reader throw: ${(error as Error).message}`);
    }
  }
}

/** Raw bytes on the listening port, upgrades of all kinds, and resets wherever a connection may be by then. */
async function fuzzDoors(lane: number, count: number): Promise<void> {
  const chance = randomFrom(seed, 300 + lane);
  for (let n = 0; n < count && service.isRunning; n++) {
    counted.knocks += 1;
    const wrong = faultOfAnswer(await knock(Number(new URL(service.url).port), chance));
    if (wrong) fault(wrong);
  }
}

async function fuzzFrames(lane: number, count: number): Promise<void> {
  const chance = randomFrom(seed, 100 + lane);
  let left = count;
  while (left > 0) {
    const socket = await connect();
    // Most say hello first, so that what follows gets past the door.
    if (happens(chance, 0.9))
      socket.send(JSON.stringify({ frame: "hello", wire: 1, build: TRIAL_BUILD, name: `Fuzz ${lane}` }));
    const closed = new Promise<void>((resolve) => socket.once("close", () => resolve()));
    let isClosed = false;
    void closed.then(() => {
      isClosed = true;
      counted.closed += 1;
    });
    for (let sent = 0; sent < 200 && left > 0 && !isClosed; sent++, left--, counted.frames++) {
      const frame = oneOf(chance, frames);
      const text = happens(chance, 0.7)
        ? JSON.stringify(mutateJson(chance, frame))
        : mutateText(chance, JSON.stringify(frame));
      socket.send(happens(chance, 0.04) ? bytesOf(chance, text) : text);
      // Lets the service answer now and then, as it would be between real frames.
      if (sent % 10 === 9) await new Promise((resolve) => setImmediate(resolve));
    }
    socket.close();
    await within(closed, "a connection did not close");
  }
}

/** Text where bytes are expected, or a message to relay, whole or cut. */
function bytesOf(chance: Random, text: string): Uint8Array {
  if (happens(chance, 0.5)) return Buffer.from(text);
  const whole = writeRelayBytes({ to: oneOf(chance, ["all", "others", { side: "north" }]), body: Buffer.from(text) });
  return happens(chance, 0.5) ? whole : whole.subarray(0, chance.below(whole.length));
}

function connect(): Promise<WebSocket> {
  return within(
    new Promise<WebSocket>((resolve, reject) => {
      const socket = new WebSocket(`${service.url.replace("http", "ws")}/v1/play`, "yellow-harbor.1");
      socket.once("open", () => resolve(socket));
      socket.on("error", reject);
    }),
    "a connection did not open",
  );
}

async function fuzzRequests(lane: number, count: number): Promise<void> {
  const chance = randomFrom(seed, 200 + lane);
  for (let n = 0; n < count; n++) {
    const known = oneOf(chance, paths);
    const target = happens(chance, 0.5) ? known : mutateText(chance, known).replace(/[^\x21-\x7e]/g, "%20");
    const body = oneOf(chance, bodies);
    const isPost = happens(chance, 0.6);
    counted.requests += 1;
    const path = target.startsWith("/") ? target : `/${target}`;
    if (!URL.canParse(service.url + path)) continue;
    await request(new URL(service.url + path), {
      method: isPost ? "POST" : "GET",
      headers: {
        "content-type": happens(chance, 0.9) ? "application/json" : "text/plain",
        // A wrong key is refused before anything is read; without one the service is open to this computer.
        ...(happens(chance, 0.1) && { authorization: "Bearer nonsense" }),
      },
      ...(isPost && {
        body: happens(chance, 0.7)
          ? JSON.stringify(mutateJson(chance, body))
          : mutateText(chance, JSON.stringify(body)),
      }),
    });
  }
}

async function request(url: URL, init: RequestInit): Promise<void> {
  // A stream has no end of its own; it is fuzzed by its opening alone.
  if (url.pathname.startsWith("/v1/watch")) return;
  try {
    const response = await fetch(url, { ...init, signal: AbortSignal.timeout(ANSWER_MS) });
    await response.arrayBuffer();
    statuses.set(response.status, (statuses.get(response.status) ?? 0) + 1);
    if (response.status >= 500) fault(`${response.status} for ${init.method} ${url.pathname}`);
  } catch (error) {
    const { cause, message } = error as Error & { cause?: { code?: string; message?: string } };
    fault(`no answer to ${init.method} ${url.pathname}: ${cause?.code ?? cause?.message ?? message}`);
  }
}

async function stillAnswers(when: string): Promise<void> {
  const response = await fetch(`${service.url}/readyz`, { signal: AbortSignal.timeout(ANSWER_MS) });
  if (response.status !== 200) fault(`not ready ${when}: ${response.status}`);
}

async function within<T>(promise: Promise<T>, what: string): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error(`${what} within ${ANSWER_MS / 1000} s`)), ANSWER_MS);
  });
  return Promise.race([promise, late]).finally(() => clearTimeout(timer));
}
