import { basename } from "node:path";
import type { LoadedConfig } from "./load.ts";
import { leavesOf } from "./values.ts";
import type { Override } from "./yaml-file.ts";

/** A value of a configuration and where it is from. */
export interface ConfigOrigin {
  readonly path: string;
  readonly value: unknown;
  /** `default`, a place in the file, a variable, or a flag. */
  readonly origin: string;
}

/** All values that hold, each with what it is from. */
export function originsOf(loaded: Extract<LoadedConfig, { ok: true }>, overrides: readonly Override[]): ConfigOrigin[] {
  const file = basename(loaded.file);
  return leavesOf(loaded.config).map(({ path, value }) => {
    const override = overrides.findLast((one) => one.path.every((step, n) => path[n] === step));
    const place = loaded.placeOf(path);
    const inFile = place === undefined ? "default" : `${file}:${place.line}`;
    return { path: path.join("."), value, origin: override?.from ?? inFile };
  });
}
