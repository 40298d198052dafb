import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { copyFileSync, mkdirSync, readdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { testPorts } from "../packages/service/src/testing/test-ports.ts";
import { ROOT } from "./imports.ts";

/** All that a release consists of, made in a folder. */
export function makeRelease(out: string): void {
  // Without the archive: what would be in it lies in its folder.
  const args = [join(ROOT, "tools/package.mjs"), "--quick", "--out", out];
  execFileSync(process.execPath, args, { cwd: ROOT, stdio: ["ignore", "ignore", "pipe"] });
}

export const filesOf = (folder: string, ending: string) =>
  readdirSync(folder)
    .filter((name) => name.endsWith(ending))
    .map((name) => join(folder, name));

/** Installs packages of a release into an empty project, as their users do. */
export function installInto(project: string, packages: readonly string[], more: readonly string[] = []): void {
  mkdirSync(project, { recursive: true });
  writeFileSync(
    join(project, "package.json"),
    JSON.stringify({ name: "somebodys-game", private: true, type: "module" }),
  );
  const args = ["install", "--prefer-offline", "--no-audit", "--no-fund", "--loglevel=error", ...more, ...packages];
  execFileSync("npm", args, { cwd: project, stdio: ["ignore", "ignore", "pipe"] });
}

/** SQLite's module takes minutes to compile and is the same as ours: what installing would compile is put in its place. */
export function putCompiledModule(nodeModules: string): void {
  const folder = "better-sqlite3/build/Release";
  mkdirSync(join(nodeModules, folder), { recursive: true });
  const file = join(folder, "better_sqlite3.node");
  copyFileSync(join(ROOT, "node_modules", file), join(nodeModules, file));
}

/** A configuration of a game whose server is in a folder. */
export function configurationIn(folder: string, server: string): string {
  const from = testPorts();
  const file = join(folder, "harbor.yaml");
  writeFileSync(
    file,
    `harbor: packed
listen: { port: 0 }
players: { builds: [game-1] }
lobbies: { quayside: { title: Quayside, roomKinds: [crews] } }
roomKinds: { crews: { capacity: { max: 4 }, levels: [brine-gate] } }
levels: { brine-gate: { title: Brine Gate, players: { min: 1, max: 4 }, pool: sluice } }
builds: { own: { command: node, args: [${server}] } }
pools: { sluice: { build: own, ports: { from: ${from}, to: ${from + 9} }, stopMs: 1000 } }
`,
  );
  return file;
}

/** Runs `yh serve` of a package until it is ready; resolves with its address and what ends it. */
export async function serveWith(yh: readonly string[], config: string) {
  const [program = "", ...args] = [
    ...yh,
    "serve",
    "--config",
    config,
    "--stop-instances",
    "--accept-risk",
    "root-instances",
  ];
  const service = spawn(program, args, { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  service.stderr.on("data", (chunk) => (said += chunk));
  const url = await new Promise<string>((resolve, reject) => {
    service.once("exit", () => reject(new Error(`the service has ended: ${said}`)));
    service.stdout.on("data", (chunk) => {
      said += chunk;
      const [, found] = /"url":"([^"]+)"/.exec(said) ?? [];
      if (found) resolve(found);
    });
  });
  const stop = async () => {
    const ended = once(service, "exit");
    service.kill("SIGTERM");
    await ended;
  };
  return { url, stop };
}
