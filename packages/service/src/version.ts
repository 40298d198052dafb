import { readFileSync } from "node:fs";
import { join } from "node:path";
import { PACKAGE_FOLDER } from "./package-folder.ts";

export const SERVICE_VERSION = (
  JSON.parse(readFileSync(join(PACKAGE_FOLDER, "package.json"), "utf8")) as { version: string }
).version;
