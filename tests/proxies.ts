import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { TestCertificate } from "../packages/service/src/testing/test-certificate.ts";
import { ROOT } from "./imports.ts";

/** Where a proxy of a test listens, and what is behind it. */
export interface ProxyPlace {
  readonly folder: string;
  /** Port at which it takes clients by TLS. */
  readonly port: number;
  /** Port of the service. */
  readonly servicePort: number;
  readonly certificate: TestCertificate;
}

interface Proxy {
  readonly program: string;
  /** Writes the file that we ship, with names and ports of the test, and returns how to start the program in the foreground. */
  readonly prepare: (place: ProxyPlace) => { readonly args: string[]; readonly env?: Record<string, string> };
  /** Signal on which it ends at once. */
  readonly signal: NodeJS.Signals;
}

/** A file of deploy/proxies with some texts replaced, each of which has to be there. */
function shipped(name: string, replaced: Readonly<Record<string, string>>): string {
  let text = readFileSync(join(ROOT, "deploy/proxies", name), "utf8");
  for (const [from, to] of Object.entries(replaced)) {
    if (!text.includes(from)) throw new Error(`deploy/proxies/${name} does not have ${from} any more`);
    text = text.replaceAll(from, to);
  }
  return text;
}

const place = (name: string, ...places: string[]) =>
  process.env[name] ?? places.find((path) => existsSync(path)) ?? (places[0] as string);

export const proxies: Readonly<Record<"nginx" | "HAProxy" | "Caddy", Proxy>> = {
  nginx: {
    program: place("NGINX", "/usr/sbin/nginx"),
    signal: "SIGQUIT",
    prepare: ({ folder, port, servicePort, certificate }) => {
      const site = shipped("nginx.conf", {
        "server 127.0.0.1:7420;": `server 127.0.0.1:${servicePort};`,
        "listen 443 ssl;": `listen 127.0.0.1:${port} ssl;`,
        "server_name harbor.example;": "server_name localhost;",
        "/etc/ssl/harbor.example/fullchain.pem": certificate.certFile,
        "/etc/ssl/harbor.example/privkey.pem": certificate.keyFile,
      });
      mkdirSync(join(folder, "logs"), { recursive: true });
      const file = join(folder, "nginx.conf");
      const paths = ["client_body", "proxy", "fastcgi", "uwsgi", "scgi"].map(
        (what) => `${what}_temp_path ${folder}/${what};`,
      );
      writeFileSync(
        file,
        `${process.getuid?.() === 0 ? "user root;" : ""}
daemon off; pid ${folder}/nginx.pid; error_log ${folder}/logs/error.log; worker_processes 1;
events {}
http { access_log off; ${paths.join(" ")}
${site}
}
`,
      );
      return { args: ["-c", file, "-p", folder, "-e", join(folder, "logs/error.log")] };
    },
  },
  HAProxy: {
    program: place("HAPROXY", "/usr/sbin/haproxy"),
    signal: "SIGTERM",
    prepare: ({ folder, port, servicePort, certificate: { certFile, keyFile } }) => {
      const both = join(folder, "both.pem");
      writeFileSync(both, readFileSync(certFile, "utf8") + readFileSync(keyFile, "utf8"), { mode: 0o600 });
      const text = shipped("haproxy.cfg", {
        "bind :443 ssl crt /etc/ssl/harbor.example.pem": `bind 127.0.0.1:${port} ssl crt ${both}`,
        // Two descriptors for each connection are more than some computers of tests allow.
        "maxconn 20000": "maxconn 2000",
        "server harbor 127.0.0.1:7420": `server harbor 127.0.0.1:${servicePort}`,
      });
      const file = join(folder, "haproxy.cfg");
      writeFileSync(file, text);
      return { args: ["-db", "-f", file] };
    },
  },
  Caddy: {
    program: place("CADDY", "/usr/bin/caddy"),
    signal: "SIGTERM",
    prepare: ({ folder, port, servicePort, certificate: { certFile, keyFile } }) => {
      // A certificate of the test's own, since none can be had for this computer.
      const site = "{$HARBOR_NAME:harbor.example} {";
      const text = shipped("Caddyfile", { [site]: `${site}\n\ttls ${certFile} ${keyFile}` });
      const file = join(folder, "Caddyfile");
      writeFileSync(file, `{\n\tadmin off\n\tauto_https disable_redirects\n}\n${text}`);
      return {
        args: ["run", "--config", file, "--adapter", "caddyfile"],
        env: {
          HARBOR_NAME: `https://localhost:${port}`,
          HARBOR_AT: `127.0.0.1:${servicePort}`,
          XDG_DATA_HOME: folder,
          XDG_CONFIG_HOME: folder,
        },
      };
    },
  },
};

/** Starts a proxy with the file that we ship; resolves with what ends it. */
export function startProxy({ program, prepare, signal }: Proxy, at: ProxyPlace): () => Promise<void> {
  const { args, env = {} } = prepare(at);
  const child = spawn(program, args, { stdio: "ignore", env: { ...process.env, ...env } });
  const ended = once(child, "exit");
  return async () => {
    child.kill(signal);
    const force = setTimeout(() => child.kill("SIGKILL"), 3_000);
    await ended;
    clearTimeout(force);
  };
}
