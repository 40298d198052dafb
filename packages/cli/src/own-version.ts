import { readFileSync } from "node:fs";

/** What yh says of versions, as it was written beside the bundle; undefined for a compiled yh. */
export function writtenVersions(): ReturnType<typeof import("@yellow-harbor/service")["versions"]> | undefined {
  return read("./versions.json");
}

/** Version of this yh. */
export const ownVersion = (): string | undefined => {
  const found = writtenVersions()?.product ?? read<{ version: string }>("../package.json")?.version;
  return found;
};

function read<T>(beside: string): T | undefined {
  try {
    return JSON.parse(readFileSync(new URL(beside, import.meta.url), "utf8")) as T;
  } catch {
    return undefined;
  }
}

/** Whether two versions were made to work together: patches are, and so is all of one minor version. */
export const isSameMinor = (one: string, other: string): boolean =>
  one.split(".").slice(0, 2).join(".") === other.split(".").slice(0, 2).join(".");
