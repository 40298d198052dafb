import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { parseConfig } from "@yellow-harbor/service";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { parse, parseAllDocuments } from "yaml";
import { ROOT } from "./imports.ts";
import { runYh } from "./run-yh.ts";

const DEPLOY = join(ROOT, "deploy");
const read = (path: string) => readFileSync(join(DEPLOY, path), "utf8");

/** A configuration that has to be valid, and to start without a risk that the service refuses. */
function checked(text: string) {
  const parsed = parseConfig(text);
  expect(parsed.ok ? [] : parsed.faults).toEqual([]);
  if (!parsed.ok) throw new Error("unreachable");
  return parsed.config;
}

describe("the unit files for systemd", () => {
  const analyze = "/usr/bin/systemd-analyze";
  let folder: string;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), "yellow-harbor-units-"));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  // Exposure from 0 to 10, as systemd counts it; the agent has to be able to become another user.
  it.runIf(existsSync(analyze)).each([
    ["yellow-harbor.service", 1.5],
    ["yellow-harbor-agent.service", 3.5],
  ])("%s is understood, starts a command that there is, and leaves little open", (name, exposure) => {
    const file = join(folder, name);
    // Where it is installed is not here.
    writeFileSync(file, read(`systemd/${name}`).replaceAll("/opt/yellow-harbor/bin/yh", process.execPath));
    const verified = spawnSync(analyze, ["verify", "--man=no", file], { encoding: "utf8" });
    expect(verified.stderr.split("\n").filter((line) => line.includes(name))).toEqual([]);
    const args = ["security", "--offline=true", `--threshold=${exposure * 10}`, file];
    const { status, stdout } = spawnSync(analyze, args, {
      encoding: "utf8",
      env: { ...process.env, LC_ALL: "C.UTF-8" },
    });
    expect({ status, said: status === 0 ? "" : stdout }).toEqual({ status: 0, said: "" });
  });

  it("call yh by commands and options that it has", async () => {
    const lines = readdirSync(join(DEPLOY, "systemd")).flatMap((name) =>
      [...read(`systemd/${name}`).matchAll(/^Exec\w+=\/opt\/yellow-harbor\/bin\/yh (.+)$/gm)].map(
        ([, line = ""]) => line,
      ),
    );
    expect(lines.length).toBeGreaterThanOrEqual(3);
    for (const line of lines) {
      const words = line.split(" ");
      const command = words.slice(
        0,
        words.findIndex((word) => word.startsWith("-") || word.startsWith("/")),
      );
      const { code, out } = await runYh([...command, "--help"]);
      expect({ line, code }).toEqual({ line, code: 0 });
      for (const option of words.filter((word) => word.startsWith("--"))) expect(out).toContain(option);
    }
  });
});

describe("the configurations", () => {
  it("are valid, trust a proxy, and are refused by no risk", async () => {
    const ofKubernetes = parseAllDocuments(read("kubernetes/yellow-harbor.yaml")).map((one) => one.toJS());
    const map = ofKubernetes.find(({ kind }) => kind === "ConfigMap");
    const { risksOf } = await import("../packages/service/src/config/risks.ts");
    for (const text of [read("harbor.yaml"), read("container/harbor.yaml"), map.data["harbor.yaml"]]) {
      const config = checked(text);
      expect(config.listen.trustedProxies.length).toBe(1);
      expect(risksOf(config, { isRoot: false })).toEqual([]);
    }
  });
});

describe("the examples", () => {
  it.each(readdirSync(join(DEPLOY, "examples")))("%s is valid, and is refused by no risk", async (name) => {
    const config = checked(read(`examples/${name}`));
    const { risksOf } = await import("../packages/service/src/config/risks.ts");
    expect(risksOf(config, { isRoot: false })).toEqual([]);
    expect(read("../docs/deploy.md")).toContain("`deploy/examples`");
  });
});

describe("the files for containers", () => {
  it("copy what there is, run as nobody in particular, and look after themselves", () => {
    const text = read("container/Containerfile");
    const last = text.slice(text.lastIndexOf("\nFROM "));
    expect(last).toMatch(/^USER 10001$/m);
    expect(last).toMatch(/^HEALTHCHECK .*\/healthz/m);
    expect(last).toMatch(/^STOPSIGNAL SIGTERM$/m);
    const scripts = JSON.parse(readFileSync(join(ROOT, "package.json"), "utf8")).scripts;
    for (const [, name = ""] of text.matchAll(/npm run (\S+)/g)) expect(scripts).toHaveProperty(name);
    // The build sees neither what was installed nor what was built here: both are of another system.
    const ignored = read("container/Containerfile.dockerignore").split("\n");
    for (const folder of ["**/node_modules", "**/dist", ".prepared", ".git"]) expect(ignored).toContain(folder);
  });

  it("compose: mounts what there is, opens ports of the proxy alone, and lets the service trust its network", () => {
    const { services, networks, volumes } = parse(read("container/compose.yaml"));
    for (const [name, service] of Object.entries<Record<string, never>>(services)) {
      for (const mount of (service["volumes"] ?? []) as string[]) {
        const [from = ""] = mount.split(":");
        const isThere = from.startsWith(".") ? existsSync(resolve(DEPLOY, "container", from)) : from in volumes;
        expect({ name, mount, isThere }).toEqual({ name, mount, isThere: true });
      }
      expect({ name, opens: service["ports"] !== undefined }).toEqual({ name, opens: name === "proxy" });
    }
    const [{ subnet }] = networks.inside.ipam.config;
    expect(checked(read("container/harbor.yaml")).listen.trustedProxies).toEqual([subnet]);
    expect(
      existsSync(resolve(DEPLOY, "container", services.harbor.build.context, services.harbor.build.dockerfile)),
    ).toBe(true);
  });
});

describe("the manifest for Kubernetes", () => {
  it("has one replica, without rights, whose ports, volumes and probes are there", async () => {
    const all = parseAllDocuments(read("kubernetes/yellow-harbor.yaml")).map((one) => one.toJS());
    expect(all.map(({ kind }) => kind)).toEqual(["ConfigMap", "Service", "StatefulSet"]);
    const [map, service, { spec }] = all;
    expect(spec.replicas).toBe(1);
    const { containers, volumes, securityContext } = spec.template.spec;
    expect(securityContext.runAsNonRoot).toBe(true);
    const [container] = containers;
    expect(container.securityContext).toMatchObject({ allowPrivilegeEscalation: false, readOnlyRootFilesystem: true });
    const { version } = JSON.parse(readFileSync(join(ROOT, "package.json"), "utf8"));
    expect(container.image).toBe(`yellow-harbor:${version}`);
    const config = checked(map.data["harbor.yaml"]);
    expect(container.ports).toEqual([{ name: "http", containerPort: config.listen.port }]);
    expect(service.spec.ports[0]).toMatchObject({ port: config.listen.port, targetPort: "http" });
    expect(service.spec.selector).toEqual(spec.template.metadata.labels);
    const names = [...volumes, ...spec.volumeClaimTemplates.map((one: { metadata: object }) => one.metadata)].map(
      ({ name }: { name: string }) => name,
    );
    const mounts = container.volumeMounts as { name: string; mountPath: string }[];
    expect(mounts.map(({ name }) => name).toSorted()).toEqual(names.toSorted());
    expect(mounts.map(({ mountPath }) => mountPath)).toContain(config.data);
    const { startTestService, endAll } = await import("../packages/service/src/testing/test-service.ts");
    const { url } = await startTestService();
    for (const probe of ["readinessProbe", "livenessProbe", "startupProbe"]) {
      const { path } = container[probe].httpGet;
      expect({ path, status: (await fetch(url + path)).status }).toEqual({ path, status: 200 });
    }
    await endAll();
  });
});
