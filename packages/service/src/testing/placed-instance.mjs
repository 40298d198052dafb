// Prints what it was started with, then announces itself and obeys; `grow` takes more and more memory, `broken` never comes up.
import { createServer } from "node:net";

const [mode, ...rest] = process.argv.slice(2);
const { YELLOW_HARBOR_URL: url, YELLOW_HARBOR_KEY: key, YELLOW_HARBOR_PORT: port } = process.env;
console.log(
  JSON.stringify({ args: rest, cwd: process.cwd(), greeting: process.env.GREETING, level: process.env.LEVEL }),
);
if (mode === "broken") process.exit(7);
process.on("SIGTERM", () => process.exit(0));

const say = async (step, body) => {
  const response = await fetch(`${url}/v1/instance/${step}`, {
    method: "POST",
    headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  return response.ok ? response.json() : process.exit(1);
};

await new Promise((resolve) => createServer((socket) => socket.destroy()).listen(Number(port), resolve));
await say("announce", { port: Number(port) });
const kept = [];
if (mode === "grow") setInterval(() => kept.push(Buffer.alloc(16 * 1024 * 1024, 1)), 20);
for (let acknowledged = 0; ; ) {
  const { instructions } = await say("poll", { acknowledged, waitMs: 1_000 });
  for (const instruction of instructions) {
    acknowledged = instruction.number;
    if (instruction.instruction !== "stop") continue;
    await say("goodbye", { reason: instruction.reason });
    process.exit(0);
  }
}
