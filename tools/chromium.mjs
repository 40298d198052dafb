// Browser tests drive Debian's Chromium. Installed where it is missing and we may.
import { existsSync } from "node:fs";
import { run, say } from "./run.mjs";

const PLACES = ["/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"];

export const findChromium = () => process.env.CHROMIUM ?? PLACES.find((path) => existsSync(path));

/** The path of a Chromium, installed first where needed; undefined when none can be had. */
export async function ensureChromium() {
  const found = findChromium();
  if (found) return found;
  const mayInstall = process.getuid?.() === 0 && existsSync("/usr/bin/apt-get");
  if (!mayInstall) {
    say(
      "Browser tests need Chromium, and installing it needs root on Debian: apt-get install chromium, or set CHROMIUM to its path.",
    );
    return undefined;
  }
  say("Installing Chromium for the browser tests ...");
  const env = { DEBIAN_FRONTEND: "noninteractive" };
  await run("apt-get", ["update", "-qq"], { quiet: true, env });
  await run("apt-get", ["install", "-y", "-qq", "--no-install-recommends", "chromium", "fonts-dejavu-core"], {
    quiet: true,
    env,
  });
  return findChromium();
}
