// A service with webhooks of which one fails, and with a configuration file that has changes: for images of how it is run.
import { spawn } from "node:child_process";
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { node, ROOT } from "../run.mjs";

/** A receiver that answers as it is told. */
function receiver(port, status) {
  const server = createServer((request, response) => {
    request.resume();
    request.on("end", () => response.writeHead(status).end(status === 200 ? "" : "no such route"));
  });
  return new Promise((resolve) => server.listen(port, "127.0.0.1", () => resolve(server)));
}

/** Resolves with where it is, and how to end it. */
export async function operationScene(port) {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-operation-"));
  const config = join(folder, "harbor.yaml");
  const demo = readFileSync(join(ROOT, "examples/tidewrights/harbor.yaml"), "utf8")
    .replaceAll("../../", `${ROOT}/`)
    .replace(/command: \.\//g, `command: ${join(ROOT, "examples/tidewrights")}/`)
    .replace(/^ +plan: .*$/gm, "")
    .replace(/^data:.*$/m, "data: data");
  const secret = join(folder, "hook.secret");
  writeFileSync(secret, `whsec_${Buffer.alloc(24, 5).toString("base64")}\n`);
  chmodSync(secret, 0o600);
  const hook = (name, at, events) =>
    `  ${name}: { url: "http://127.0.0.1:${at}/hooks", secrets: [hook], events: [${events}], privateAddresses: true }`;
  const webhooks = [
    "secrets: { hook: { file: hook.secret } }",
    "webhooks:",
    hook("backend", port + 1, '"player.*", "run.*"'),
    hook("analytics", port + 2, '"*"'),
    hook("siem", port + 3, "audit.added"),
  ].join("\n");
  const listening = `listen: { host: 127.0.0.1, port: ${port} }\n${demo}`;
  writeFileSync(config, `${listening}\n${webhooks}\n`);
  const receivers = [await receiver(port + 1, 200), await receiver(port + 2, 410)];
  const args = ["serve", "--config", config, "--accept-risk", "root-instances"];
  const service = spawn(node, [join(ROOT, "packages/cli/bin/yh.js"), ...args], { stdio: "ignore" });
  const url = `http://127.0.0.1:${port}`;
  for (let n = 0; n < 100 && !existsSync(join(folder, "data/harbor.sqlite")); n++) await wait(100);
  await wait(1_500);
  const { OperatorClient, PlayerClient } = await import(join(ROOT, "packages/client/dist/index.js"));
  const operator = new OperatorClient({ url });
  const players = [];
  for (const name of ["Ansel", "Brisa", "Corin"]) {
    players.push(await PlayerClient.connect({ url, name, build: "tidewrights-0.3" }));
    await wait(200);
  }
  await players[0].openRoom({ capacity: 4 });
  await operator.createBan({ account: "game:4711" }, { reason: "cheating" });
  const changed = readFileSync(config, "utf8")
    .replace("limit: 1000", "limit: 2000")
    .replace(/title: Brine Gate/, "title: Brine Gate at dusk");
  writeFileSync(config, `${changed}\njournal: { snapshotEvery: 20000 }\n`);
  await wait(2_500);
  return {
    url,
    config,
    end: async () => {
      for (const player of players) player.drop();
      const ended = new Promise((resolve) => service.once("exit", resolve));
      service.kill("SIGTERM");
      await ended;
      for (const server of receivers) server.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
