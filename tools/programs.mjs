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

/** The path of an nginx, for what is tried behind a proxy. */
export const ensureNginx = async () =>
  process.env.NGINX ??
  ensureProgram({
    name: "nginx",
    places: ["/usr/sbin/nginx", "/usr/bin/nginx"],
    packages: ["nginx-light"],
    remedy: ", or set NGINX to its path",
  });
