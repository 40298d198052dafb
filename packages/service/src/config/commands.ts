import { createHash } from "node:crypto";
import { accessSync, constants, readFileSync, statSync } from "node:fs";
import { delimiter, isAbsolute, join, resolve } from "node:path";
import type { BuildSpec } from "@yellow-harbor/protocol";
import type { Fault } from "./fault.ts";
import type { Config } from "./schema.ts";

/** Commands of builds that are not there, or cannot be run: known before anybody waits for an instance. */
export const commandFaults = ({ builds }: Config, folder: string, checksums: boolean): Fault[] =>
  Object.entries(builds).flatMap(([build, spec]) =>
    runFaults(checksums ? spec : { ...spec, checksum: undefined }, folder).map((fault) => ({
      ...fault,
      path: ["builds", build, ...fault.path],
    })),
  );

/** What of a build is not on this computer, or not as it is said to be. */
export function runFaults({ command, folder: own, assets, checksum }: BuildSpec, folder: string): Fault[] {
  const base = own === undefined ? folder : resolve(folder, own);
  const folders = [
    ...(own === undefined ? [] : [["folder", base] as const]),
    ...(assets === undefined ? [] : [["assets", resolve(folder, assets)] as const]),
  ];
  const missing = folders.flatMap(([key, path]): Fault[] =>
    statSync(path, { throwIfNoEntry: false })?.isDirectory() ? [] : [{ path: [key], message: `${path} is no folder` }],
  );
  const why =
    whyNotRun(command, base) ?? (checksum === undefined ? undefined : whyChecksumDiffers(command, base, checksum));
  return [...missing, ...(why === undefined ? [] : [{ path: ["command"], message: why }])];
}

/** File of a command: by its path, or the first that PATH leads to. */
export function fileOfCommand(command: string, folder: string): string | undefined {
  if (isAbsolute(command) || command.includes("/")) return resolve(folder, command);
  const folders = (process.env.PATH ?? "").split(delimiter);
  return folders.map((one) => join(one, command)).find((file) => faultOf(file) === undefined);
}

/** Why the command's file is another than it should be, or undefined. */
function whyChecksumDiffers(command: string, folder: string, checksum: string): string | undefined {
  const file = fileOfCommand(command, folder);
  if (file === undefined) return undefined;
  const found = `sha256:${createHash("sha256").update(readFileSync(file)).digest("hex")}`;
  return found === checksum ? undefined : `${file} has the checksum ${found}, not ${checksum}`;
}

function whyNotRun(command: string, folder: string): string | undefined {
  if (isAbsolute(command) || command.includes("/")) {
    const file = resolve(folder, command);
    const fault = faultOf(file);
    return fault && `${file} ${fault}`;
  }
  if (fileOfCommand(command, folder) !== undefined) return undefined;
  return `${command} is in no folder of PATH; name its file, or install it`;
}

function faultOf(file: string): string | undefined {
  const found = statSync(file, { throwIfNoEntry: false });
  if (found === undefined) return "is not there";
  if (!found.isFile()) return "is not a file";
  try {
    accessSync(file, constants.X_OK);
    return undefined;
  } catch {
    return "may not be executed; give it the right to be (chmod +x)";
  }
}
