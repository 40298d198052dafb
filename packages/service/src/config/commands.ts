import { accessSync, constants, statSync } from "node:fs";
import { delimiter, isAbsolute, join, resolve } from "node:path";
import type { Fault } from "./references.ts";
import type { Config } from "./schema.ts";

/** Commands of builds that are not there, or cannot be run: known before anybody waits for an instance. */
export const commandFaults = ({ builds }: Config, folder: string): Fault[] =>
  Object.entries(builds).flatMap(([build, { command }]) => {
    const why = whyNotRun(command, folder);
    return why === undefined ? [] : [{ path: ["builds", build, "command"], message: why }];
  });

function whyNotRun(command: string, folder: string): string | undefined {
  if (isAbsolute(command) || command.includes("/")) {
    const file = resolve(folder, command);
    const fault = faultOf(file);
    return fault && `${file} ${fault}`;
  }
  const folders = (process.env["PATH"] ?? "").split(delimiter);
  if (folders.some((one) => faultOf(join(one, command)) === undefined)) return undefined;
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
