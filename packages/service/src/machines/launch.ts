import { type ChildProcess, spawn } from "node:child_process";
import { closeSync, mkdirSync, openSync } from "node:fs";
import { constants, setPriority } from "node:os";
import { join, resolve } from "node:path";
import { instanceEnvironment } from "@yellow-harbor/protocol";
import type { LaunchRequest } from "./driver.ts";
import { outputName } from "./output-keeper.ts";
import { commandAs, giveFolder, type RunAs } from "./run-as.ts";

export interface Launch {
  /** Holds what the instance prints, and its own data. */
  readonly ownFolder: string;
  /** Folder that relative paths of the build count from. */
  readonly workingFolder: string;
  readonly serviceUrl: string;
  /** File of its control group that its process writes its id to. */
  readonly group?: string | undefined;
  /** Undefined for the user that we are. */
  readonly runAs: RunAs | undefined;
}

/** Starts a process as its build says: detached, a group of its own, printing to files, so that it outlives us. */
export function launch(
  request: LaunchRequest,
  { ownFolder, workingFolder, serviceUrl, runAs, group }: Launch,
): ChildProcess {
  const { spec, instance, address, key } = request;
  const data = join(ownFolder, "data");
  mkdirSync(data, { recursive: true, mode: 0o700 });
  // Its own folder, that of all instances, and the data folder.
  if (runAs) giveFolder(runAs, data, [ownFolder, join(ownFolder, ".."), join(ownFolder, "../..")]);
  const values = valuesOf(request, { data, serviceUrl, assets: spec.assets && resolve(workingFolder, spec.assets) });
  const fill = (text: string) => text.replace(/\{([a-z][\w.-]*)\}/g, (whole, name: string) => values[name] ?? whole);
  const filled = Object.entries({ ...spec.environment, ...request.environment }).map(([name, text]) => [
    name,
    fill(text),
  ]);
  const limited = withLimits(spec.command, spec.args.map(fill), spec.limits.openFiles);
  const [command, args] = inGroup(group, ...(runAs ? commandAs(runAs, ...limited) : limited));
  const out = openSync(join(ownFolder, outputName("out")), "a", 0o600);
  const err = openSync(join(ownFolder, outputName("err")), "a", 0o600);
  try {
    const child = spawn(command, args, {
      cwd: spec.folder === undefined ? workingFolder : resolve(workingFolder, spec.folder),
      detached: true,
      stdio: ["ignore", out, err],
      env: {
        ...inheritedEnvironment(),
        // The home of the service is none of its business.
        ...(runAs && { HOME: data, USER: runAs.name, LOGNAME: runAs.name }),
        ...Object.fromEntries(filled),
        [instanceEnvironment.serviceUrl]: serviceUrl,
        [instanceEnvironment.key]: key,
        [instanceEnvironment.instance]: instance,
        [instanceEnvironment.host]: address.host,
        [instanceEnvironment.port]: String(address.port),
      },
    });
    if (child.pid !== undefined && spec.limits.niceness !== undefined) beNice(child.pid, spec.limits.niceness);
    return child;
  } finally {
    closeSync(out);
    closeSync(err);
  }
}

function valuesOf(
  { address, ports, instance, key, level, client, secrets }: LaunchRequest,
  { data, serviceUrl, assets }: { data: string; serviceUrl: string; assets: string | undefined },
): Record<string, string> {
  return {
    host: address.host,
    port: String(address.port),
    instance,
    key,
    service: serviceUrl,
    data,
    level: level ?? "",
    "client.build": client ?? "",
    assets: assets ?? "",
    ...Object.fromEntries(Object.entries(secrets).map(([name, secret]) => [`secret.${name}`, secret])),
    ...Object.fromEntries(Object.entries(ports).map(([purpose, port]) => [`port.${purpose}`, String(port)])),
  };
}

/** The shell sets the limit for itself and becomes the command: same process, same id. */
const withLimits = (command: string, args: string[], openFiles: number | undefined): [string, string[]] =>
  openFiles === undefined
    ? [command, args]
    : ["/bin/sh", ["-c", `ulimit -n ${openFiles} && exec "$0" "$@"`, command, ...args]];

/** The shell puts itself into the group and becomes the command: nothing of that is ever outside. */
const inGroup = (group: string | undefined, command: string, args: string[]): [string, string[]] =>
  group === undefined
    ? [command, args]
    : ["/bin/sh", ["-c", 'echo $$ > "$1" && shift && exec "$@"', "sh", group, command, ...args]];

function beNice(pid: number, niceness: number): void {
  try {
    setPriority(pid, Math.min(niceness, constants.priority.PRIORITY_LOW));
  } catch {
    // It may have ended already; then nothing is left to be nice.
  }
}

/** Instances get the paths and locale of the service, not its secrets. */
function inheritedEnvironment(): NodeJS.ProcessEnv {
  const { PATH, HOME, LANG, LC_ALL, TZ, TMPDIR } = process.env;
  return Object.fromEntries(
    Object.entries({ PATH, HOME, LANG, LC_ALL, TZ, TMPDIR }).filter(([, value]) => value !== undefined),
  );
}
