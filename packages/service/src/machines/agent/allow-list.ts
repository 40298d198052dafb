import { resolve } from "node:path";
import type { BuildSpec } from "@yellow-harbor/protocol";
import { whyFileDiffers } from "../checksum.ts";

type WhyNot = (spec: BuildSpec, file: string | undefined) => Promise<string | undefined>;

/**
 * What the agent's own computer lets run, whatever the service says: files by their path, or by the checksum of what they
 * hold. Undefined when everything may.
 */
export function allowList(allowed: readonly string[], workingFolder: string): WhyNot | undefined {
  if (allowed.length === 0) return undefined;
  const checksums = allowed.filter((one) => one.startsWith("sha256:"));
  const files = new Set(allowed.filter((one) => !one.startsWith("sha256:")).map((one) => resolve(workingFolder, one)));
  return async ({ command }, file) => {
    if (file !== undefined && files.has(file)) return undefined;
    for (const checksum of file === undefined ? [] : checksums) {
      if ((await whyFileDiffers(file, checksum)) === undefined) return undefined;
    }
    return `${command} is not among what this computer's agent allows; add it there with --allow`;
  };
}
