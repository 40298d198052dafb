// What is shipped of others, with their licences.
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "../run.mjs";

const LICENCE_FILE = /^(licen[cs]e|copying|ofl|notice)(\.\w+)?$/i;

/** The texts of the licences of all that is shipped, one after the other. */
export function thirdParty() {
  const { packages } = JSON.parse(readFileSync(join(ROOT, "package-lock.json"), "utf8"));
  return Object.entries(packages)
    .filter(([path, { link, dev }]) => path.includes("node_modules/") && !link && !dev && existsSync(join(ROOT, path)))
    .map(([path, { version, license }]) => {
      const name = path.replace(/^.*node_modules\//, "");
      const files = readdirSync(join(ROOT, path)).filter((file) => LICENCE_FILE.test(file));
      const texts = files.map((file) => readFileSync(join(ROOT, path, file), "utf8").trim());
      return [`${name} ${version} (${license})`, ...texts].join("\n\n");
    })
    .join(`\n\n${"-".repeat(80)}\n\n`);
}
