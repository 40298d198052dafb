// Browser tests drive Debian's Chromium.
import { ensureProgram } from "./debian.mjs";

/** The path of a Chromium, installed first where needed; undefined when none can be had. */
export const ensureChromium = async () =>
  process.env.CHROMIUM ??
  ensureProgram({
    name: "Chromium",
    places: ["/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"],
    packages: ["chromium", "fonts-dejavu-core"],
    remedy: ", or set CHROMIUM to its path",
  });

/** The path of a Prometheus with its promtool, for what is shipped for monitoring. */
export const ensurePrometheus = async () =>
  process.env.PROMETHEUS ??
  ensureProgram({
    name: "Prometheus",
    places: ["/usr/bin/prometheus"],
    packages: ["prometheus"],
    remedy: ", or set PROMETHEUS to its path",
  });

/** The paths of the proxies that there are examples for: what is behind them is tried with each. */
export const ensureProxies = async () => ({
  NGINX: await ensureProxy("nginx", "nginx-light", "NGINX"),
  HAPROXY: await ensureProxy("haproxy", "haproxy", "HAPROXY"),
  CADDY: await ensureProxy("caddy", "caddy", "CADDY"),
});

const ensureProxy = async (program, debianPackage, variable) =>
  process.env[variable] ??
  ensureProgram({
    name: program,
    places: [`/usr/sbin/${program}`, `/usr/bin/${program}`],
    packages: [debianPackage],
    remedy: `, or set ${variable} to its path`,
  });

/** Shells that yh completes its words in, beside bash, which is there. */
export async function ensureShells() {
  for (const name of ["zsh", "fish"]) {
    await ensureProgram({ name, places: [`/usr/bin/${name}`], packages: [name], remedy: "; its test is left out" });
  }
}
