import { isAbsolute, resolve } from "node:path";
import type { Config } from "../config/schema.ts";
import { SERVICE_VERSION } from "../version.ts";
import { computerFindings } from "./computer-findings.ts";
import { configurationFindings } from "./configuration-findings.ts";
import { dataFolderFindings } from "./data-folder-findings.ts";
import { type Finding, ok } from "./finding.ts";

interface Looked {
  readonly config: Config;
  /** Folder that relative paths of the configuration count from. */
  readonly folder: string;
  /** Whether the service answers now: then its port is taken by right. */
  readonly isRunning: boolean;
  readonly nowMs?: number;
}

/** Looks at everything on this computer that the service stands on. Changes nothing; a file for the flush is removed again. */
export async function selfCheck({ config, folder, isRunning, nowMs = Date.now() }: Looked): Promise<Finding[]> {
  const data = isAbsolute(config.data) ? config.data : resolve(folder, config.data);
  return [
    ok("version", `Yellow Harbor ${SERVICE_VERSION}`),
    ...configurationFindings(config, folder, nowMs),
    ...dataFolderFindings(data, nowMs),
    ...(await computerFindings(config, isRunning)),
  ];
}
