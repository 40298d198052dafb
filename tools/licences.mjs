// Holds the licences of all that is shipped against those that ask for no more than to be named.
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT, say } from "./run.mjs";

const ACCEPTED = new Set([
  "MIT",
  "ISC",
  "0BSD",
  "BSD-2-Clause",
  "BSD-3-Clause",
  "Apache-2.0",
  "BlueOak-1.0.0",
  "OFL-1.1",
]);

/** A licence, or one of several to choose from (SPDX, annex D). */
const isAccepted = (licence) =>
  String(licence)
    .replace(/^\(|\)$/g, "")
    .split(" OR ")
    .some((one) => ACCEPTED.has(one));

const { packages } = JSON.parse(readFileSync(join(ROOT, "package-lock.json"), "utf8"));
const unfit = Object.entries(packages)
  .filter(([path, { link, dev }]) => path.includes("node_modules/") && !link && !dev)
  .filter(([, { license }]) => !isAccepted(license))
  .map(([path, { license }]) => `${path.replace(/^.*node_modules\//, "")}: ${license ?? "says none"}`);

for (const line of unfit) say(line);
process.exit(unfit.length === 0 ? 0 : 1);
