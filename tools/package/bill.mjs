// What a release is made of (CycloneDX), as npm reads it from the lock file.
import { execFile } from "node:child_process";
import { promisify } from "node:util";
import { ROOT } from "../run.mjs";

const SHIPPED = ["cli", "client", "console", "kit"];

export async function billOfMaterials() {
  const workspaces = SHIPPED.flatMap((name) => ["-w", `@yellow-harbor/${name}`]);
  const args = ["sbom", "--sbom-format", "cyclonedx", "--omit", "dev", "--package-lock-only", ...workspaces];
  const { stdout } = await promisify(execFile)("npm", args, { cwd: ROOT, maxBuffer: 2 ** 26 });
  return JSON.parse(stdout);
}
