// A dedicated server that speaks the instance protocol by plain HTTP, without the kit; and misbehaves on request.
// Modes: good, mute (never announces), crash (exits at once), closed (announces a port it does not listen on),
// deaf (ignores instructions to stop and the polite signal), dies (ends by itself once it has a match), websocket and
// udp (speaks that).
import { createServer } from "node:net";

const mode = process.argv[2] ?? "good";
const { YELLOW_HARBOR_URL: url, YELLOW_HARBOR_KEY: key, YELLOW_HARBOR_PORT: port } = process.env;

/** A service that is away for so long does not come back: nothing is left behind by a test. */
const AWAY_MOST_MS = 20_000;

const say = async (step, body) => {
  for (const begin = performance.now(); ; ) {
    try {
      const response = await fetch(`${url}/v1/instance/${step}`, {
        method: "POST",
        headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
        body: JSON.stringify(body),
      });
      // A poll is held, and never refused, while the service cannot write.
      if (response.status < 500 || step === "poll") return { status: response.status, body: await response.json() };
    } catch {
      // Nobody listens there now.
    }
    if (performance.now() - begin > AWAY_MOST_MS) process.exit(4);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
};

console.log(`mode ${mode} on port ${port}`);
if (mode === "crash") {
  console.error("cannot find the harbour");
  process.exit(3);
}
if (mode === "deaf") process.on("SIGTERM", () => console.log("ignoring SIGTERM"));
else process.on("SIGTERM", () => process.exit(0));

let match;
/** Everything that was ordered, in instruction. */
const instructions = [];
const server = createServer((socket) => {
  socket.setEncoding("utf8");
  socket.on("error", () => socket.destroy());
  // A line with a pass is answered with what the service says of it; "report" ends the run, "instructions" tells what was ordered.
  socket.on("data", async (text) => {
    const line = text.trim();
    if (line === "instructions") {
      socket.write(`${JSON.stringify({ status: 200, body: { instructions } })}\n`);
    } else if (line === "report") {
      const standings = match.players.map(({ id }, n) => ({ player: id, score: 10 - n }));
      socket.write(`${JSON.stringify(await say("report", { run: match.run, standings, note: "plain" }))}\n`);
    } else {
      socket.write(`${JSON.stringify(await say("board", { pass: line }))}\n`);
    }
  });
});
if (mode === "websocket") {
  const { WebSocketServer } = await import("ws");
  const sockets = new WebSocketServer({ port: Number(port) });
  sockets.on("connection", (socket) => {
    // Text is a pass; bytes come back as bytes.
    socket.on("message", async (data, isBinary) => {
      if (isBinary) socket.send(data);
      else socket.send(JSON.stringify(await say("board", { pass: String(data) })));
    });
  });
  await new Promise((resolve) => sockets.once("listening", resolve));
} else if (mode === "udp") {
  const { createSocket } = await import("node:dgram");
  const socket = createSocket("udp4");
  // Text is a pass; anything shorter comes back as it is.
  socket.on("message", async (data, from) => {
    const answer = data.length < 20 ? data : JSON.stringify(await say("board", { pass: String(data) }));
    socket.send(answer, from.port, from.address);
  });
  await new Promise((resolve) => socket.bind(Number(port), resolve));
} else if (mode !== "closed") await new Promise((resolve) => server.listen(Number(port), resolve));

if (mode === "mute") setInterval(() => undefined, 1000);
else {
  await say("announce", { port: Number(port), pid: process.pid });
  let acknowledged = 0;
  for (;;) {
    const { status, body } = await say("poll", { acknowledged, waitMs: 2000 });
    if (status !== 200) process.exit(1);
    for (const instruction of body.instructions) {
      acknowledged = instruction.number;
      instructions.push(instruction.instruction);
      if (instruction.instruction === "match-assigned") match = instruction.match;
      if (instruction.instruction === "match-assigned" && mode === "dies") setTimeout(() => process.exit(9), 50);
      if (instruction.instruction === "stop" && mode !== "deaf") {
        await say("goodbye", { reason: instruction.reason });
        process.exit(0);
      }
    }
  }
}
