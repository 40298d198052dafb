// A service with simulated machines in three regions, a match on one of them, and a crew that waits for a full region.
import { spawn } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { node, ROOT } from "../run.mjs";

const MACHINES = `
machines:
  north-1: { driver: simulated, region: north-quay, max: 1, cpus: 4, simulated: { matchMs: 600000 } }
  north-2: { driver: simulated, region: north-quay, max: 2, cpus: 0.5, simulated: { matchMs: 600000 } }
  south-1: { driver: simulated, region: south-quay, max: 8, cpus: 8, simulated: { matchMs: 600000 } }
  far-1: { driver: simulated, region: far-light, max: 8, cpus: 8, preemptible: true, simulated: { matchMs: 600000 } }
`;

/** Resolves with where it is, and how to end it. */
export async function fleetScene(port) {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-fleet-"));
  const config = join(folder, "harbor.yaml");
  const demo = readFileSync(join(ROOT, "examples/tidewrights/harbor.yaml"), "utf8")
    .replaceAll("../../", `${ROOT}/`)
    .replace(/confirm: .*$/m, "")
    .replace("{ spare: 2, spareShare: 0.25, cooldownMs: 20000 }", "{ spare: 0, costPerHour: 5 }")
    .replace(
      "ports: { from: 7500, to: 7529 }",
      "ports: { from: 7560, to: 7589 }\n    machines: [north-1, north-2, south-1, far-1]",
    )
    .replace("version: 0.3.0", "version: 0.3.0\n    needs: { cpus: 0.5 }")
    .replace(/^data:.*$/m, "data: data");
  writeFileSync(config, `listen: { host: 127.0.0.1, port: ${port} }\n${demo}\n${MACHINES}`);
  const args = ["serve", "--config", config, "--accept-risk", "root-instances"];
  const service = spawn(node, [join(ROOT, "packages/cli/bin/yh.js"), ...args], { stdio: "ignore" });
  const url = `http://127.0.0.1:${port}`;
  for (let n = 0; n < 100 && !existsSync(join(folder, "data/harbor.sqlite")); n++) await wait(100);
  await wait(1_500);
  const { PlayerClient } = await import(join(ROOT, "packages/client/dist/index.js"));
  const players = [];
  const crew = async (names, latencyMs) => {
    for (const name of names) {
      const player = await PlayerClient.connect({ url, name, lobby: "quayside", build: "tidewrights-0.3" });
      await player.search({ queue: "crews", attributes: { skill: 1500 + 5 * players.length }, latencyMs });
      players.push(player);
    }
    await wait(3_000);
  };
  await crew(["Almut", "Berit", "Cosmo", "Dragan", "Esme", "Falk"], { "north-quay": 22, "south-quay": 48 });
  await crew(["Gitta", "Hanno", "Imke", "Jasper", "Kaja", "Lorenz"], { "north-quay": 18, "south-quay": 55 });
  await crew(["Merle", "Nils", "Okka", "Paul", "Rieke", "Sven"], { "north-quay": 20, "south-quay": 180 });
  return {
    url,
    config,
    end: async () => {
      for (const player of players) player.drop();
      const ended = new Promise((resolve) => service.once("exit", resolve));
      service.kill("SIGTERM");
      await ended;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
