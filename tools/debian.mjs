// What tests need of the machine, installed where it is missing and we may.
import { existsSync } from "node:fs";
import { run, say } from "./run.mjs";

/** The first of some places that is there; installed from Debian's packages first where needed; undefined when not. */
export async function ensureProgram({ name, places, packages, remedy }) {
  const find = () => places.find((path) => existsSync(path));
  const found = find();
  if (found) return found;
  const mayInstall = process.getuid?.() === 0 && existsSync("/usr/bin/apt-get");
  if (!mayInstall) {
    say(`Tests need ${name}, and installing it needs root on Debian: apt-get install ${packages.join(" ")}${remedy}.`);
    return undefined;
  }
  say(`Installing ${name} for the tests ...`);
  const env = { DEBIAN_FRONTEND: "noninteractive", RUNLEVEL: "1" };
  await run("apt-get", ["update", "-qq"], { quiet: true, env });
  await run("apt-get", ["install", "-y", "-qq", "--no-install-recommends", ...packages], { quiet: true, env });
  return find();
}
