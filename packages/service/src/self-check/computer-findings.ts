import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { availableParallelism, freemem, tmpdir, totalmem } from "node:os";
import { join } from "node:path";
import { listeningPorts } from "@yellow-harbor/reach";
import type { Config } from "../config/schema.ts";
import { Cgroups } from "../machines/cgroups.ts";
import { bad, type Finding, look, ok } from "./finding.ts";

/** Node, limits of the system, memory and ports. */
export async function computerFindings(config: Config, isRunning: boolean): Promise<Finding[]> {
  return [
    nodeFinding(),
    filesFinding(config),
    memoryFinding(),
    ...groupFindings(config),
    await portFinding(config, isRunning),
    ...poolFindings(config),
  ];
}

function nodeFinding(): Finding {
  const [major = 0, minor = 0] = process.versions.node.split(".").map(Number);
  const text = `Node ${process.versions.node}, ${availableParallelism()} processors`;
  const isOld = major < 20 || (major === 20 && minor < 19);
  return isOld ? bad("node", `${text}; too old`, "install 20.19 or newer") : ok("node", text);
}

/** Files that the service has open beside one for each connection. */
const OWN_FILES = 200;

function filesFinding({ players, instanceRelay }: Config): Finding {
  const check = "open files";
  const limit = openFilesLimit();
  if (limit === undefined) return ok(check, "the system does not say how many there may be");
  const relayed = instanceRelay.enabled ? 2 * instanceRelay.connections : 0;
  const needed = players.limit + relayed + OWN_FILES;
  const text = `${limit} may be open, and ${players.limit} players need ${needed}`;
  return limit < needed
    ? look(check, text, `set LimitNOFILE=${needed} in the unit file (ulimit -n), or lower players.limit`)
    : ok(check, text);
}

function openFilesLimit(): number | undefined {
  try {
    const [, soft] = /^Max open files\s+(\d+|unlimited)/m.exec(readFileSync("/proc/self/limits", "utf8")) ?? [];
    return soft === "unlimited" ? Number.POSITIVE_INFINITY : soft && Number(soft) ? Number(soft) : undefined;
  } catch {
    return undefined;
  }
}

const LITTLE_MEMORY = 256 * 1_048_576;

function memoryFinding(): Finding {
  const mib = (bytes: number) => `${Math.round(bytes / 1_048_576)} MiB`;
  const text = `${mib(freemem())} of ${mib(totalmem())} are free`;
  return freemem() < LITTLE_MEMORY
    ? look("memory", text, "the service takes 100 MiB, and about 20 KiB for each player")
    : ok("memory", text);
}

/** Whether the limits of builds are held by the system, for those that run on this computer. */
function groupFindings({ builds, machines }: Config): Finding[] {
  const check = "control groups";
  const here = Object.values(machines).filter(({ driver }) => driver === "process");
  const asked = Object.entries(builds).filter(([, { limits }]) => limits.cpus !== undefined);
  if (here.length === 0 || asked.length === 0) return [];
  const names = asked.map(([name]) => name).join(", ");
  const [place = "auto"] = here.map(({ cgroups }) => cgroups);
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-check-"));
  try {
    const groups = Cgroups.open(place, folder);
    if ("why" in groups) {
      return [
        look(
          check,
          `limits.cpus of ${names} is not held: ${groups.why}`,
          "give the service a control group, as docs/instances.md says, or leave limits.cpus out",
        ),
      ];
    }
    groups.close();
    return groups.controllers.has("cpu")
      ? [ok(check, `limits.cpus of ${names} is held by the system`)]
      : [
          look(
            check,
            `limits.cpus of ${names} is not held: the cpu controller may not be used`,
            "set Delegate=yes and DelegateSubgroup=service in the unit file",
          ),
        ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}

async function portFinding({ listen }: Config, isRunning: boolean): Promise<Finding> {
  const check = "port";
  const at = `${listen.host}:${listen.port}`;
  if (isRunning) return ok(check, `the service listens on ${at}`);
  const why = await whyNotListened(listen.host, listen.port);
  if (why === undefined) return ok(check, `${at} is free`);
  const remedies: Readonly<Record<string, string>> = {
    EADDRINUSE: "stop what listens there, or set listen.port; yh address --all shows what listens",
    EACCES:
      "ports below 1024 need a right of their own (AmbientCapabilities=CAP_NET_BIND_SERVICE), or put a proxy in front",
    EADDRNOTAVAIL: "this computer has no such address; yh address lists those it has",
  };
  return bad(check, `${at} cannot be listened on (${why})`, remedies[why] ?? "see listen.host and listen.port");
}

const whyNotListened = (host: string, port: number): Promise<string | undefined> =>
  new Promise((resolve) => {
    const server = createServer();
    server.once("error", (error: NodeJS.ErrnoException) => resolve(error.code ?? error.message));
    server.listen({ host, port, exclusive: true }, () => server.close(() => resolve(undefined)));
  });

/** Whether pools have the ports that they would give to instances. Those of running instances are taken by right. */
function poolFindings({ pools, listen }: Config): Finding[] {
  const check = "pools";
  const ranges = Object.entries(pools);
  if (ranges.length === 0) return [];
  const taken = listeningPorts()?.map(({ port }) => port) ?? [];
  const findings = ranges.flatMap(([name, { ports, max, machines }]): Finding[] => {
    const count = ports.to - ports.from + 1;
    const within = (port: number) => port >= ports.from && port <= ports.to;
    if (within(listen.port))
      return [
        bad(
          check,
          `the ports of ${name} hold ${listen.port}, at which the service listens`,
          `move pools.${name}.ports`,
        ),
      ];
    const others = machines.includes("here") ? taken.filter(within).length : 0;
    if (count < max)
      return [look(check, `${name} has ${count} ports for ${max} instances`, `widen pools.${name}.ports`)];
    return others > count / 2
      ? [
          look(
            check,
            `${others} of ${count} ports of ${name} are taken`,
            "if those are not its instances, give it other ports",
          ),
        ]
      : [];
  });
  return findings.length > 0 ? findings : [ok(check, `ports for ${ranges.map(([name]) => name).join(", ")}`)];
}
