import { existsSync, mkdirSync, readdirSync, readFileSync, rmdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { BuildSpec } from "@yellow-harbor/protocol";
import pino from "pino";
import { afterEach, describe, expect, it, vi } from "vitest";
import { endAll, temporaryFolder } from "../testing/test-service.ts";
import { Cgroups, cgroupMount } from "./cgroups.ts";
import { ProcessDriver } from "./process-driver.ts";
import { isRunning } from "./process-info.ts";

const INSTANCE = "i_000000000001";

/** Where this computer has control groups of version 2. */
const MOUNT = cgroupMount() ?? "";
const GROUP = join(MOUNT, `yellow-harbor-test-${process.pid}`);

/** Whether this user may make some there. */
const mayGroup = (() => {
  try {
    if (MOUNT === "") return false;
    mkdirSync(GROUP);
    rmdirSync(GROUP);
    return true;
  } catch {
    return false;
  }
})();

const drivers: ProcessDriver[] = [];
afterEach(async () => {
  for (const driver of drivers.splice(0)) driver.close();
  await endAll();
  if (existsSync(GROUP)) rmdirSync(GROUP);
});

function started(script: string, warnings: object[] = []) {
  if (!existsSync(GROUP)) mkdirSync(GROUP);
  const folder = temporaryFolder();
  const exits: string[] = [];
  const driver = new ProcessDriver({
    folder,
    workingFolder: folder,
    serviceUrl: () => "http://127.0.0.1:1",
    cgroups: GROUP,
    output: { keepBytes: 100_000, keepMs: 60_000 },
    log: pino({ level: "warn", base: undefined }, { write: (line: string) => warnings.push(JSON.parse(line)) }),
    events: {
      spawned: () => undefined,
      startFailed: (_instance, { detail }) => exits.push(detail),
      overLimit: () => undefined,
      exited: (_instance, { exitCode, signal }) => exits.push(String(signal ?? exitCode)),
    },
  });
  drivers.push(driver);
  const spec = BuildSpec.parse({ command: "sh", args: ["-c", script], limits: { cpus: 0.5 } });
  const start = driver.start({
    ...{ instance: INSTANCE, spec, environment: {}, secrets: {}, ports: {}, level: null, key: "key" },
    address: { host: "127.0.0.1", port: 1 },
  });
  const pidIn = async (name: string) => {
    await vi.waitUntil(() => existsSync(join(folder, name)) && readFileSync(join(folder, name), "utf8").trim() !== "", {
      timeout: 30_000,
    });
    return Number(readFileSync(join(folder, name), "utf8"));
  };
  return { driver, exits, start, pidIn };
}

describe.skipIf(!mayGroup)("an instance in a control group", () => {
  it("takes with it whatever it started, also what has made a session of its own", async () => {
    const { exits, start, pidIn } = started(
      "setsid sh -c 'echo $$ > away; exec sleep 1000' & wait_for=1; sleep 0.3; exit 4",
    );
    await start;
    const pid = await pidIn("away");
    await vi.waitUntil(() => exits.length > 0, { timeout: 30_000 });
    expect(exits).toEqual(["4"]);
    await vi.waitUntil(async () => !(await isRunning(pid)), { timeout: 30_000 });
    // Its group goes too, once nothing is in it.
    await vi.waitUntil(() => readdirSync(GROUP, { withFileTypes: true }).every((one) => groupsIn(one.name) === 0), {
      timeout: 30_000,
    });
  });

  it("is killed with all of it", async () => {
    const { driver, exits, start, pidIn } = started("setsid sh -c 'echo $$ > away; exec sleep 1000' & exec sleep 1000");
    await start;
    const pid = await pidIn("away");
    driver.signal(INSTANCE, "kill");
    await vi.waitUntil(() => exits.length > 0, { timeout: 30_000 });
    await vi.waitUntil(async () => !(await isRunning(pid)), { timeout: 30_000 });
    expect(exits).toEqual(["SIGKILL"]);
  });

  it("says so, once, when its limit of CPUs cannot be held here", async () => {
    mkdirSync(GROUP);
    const open = Cgroups.open(GROUP, "/somewhere");
    if ("why" in open) throw new Error(open.why);
    const isHeld = open.controllers.has("cpu");
    open.close();
    const warnings: object[] = [];
    const { start, exits } = started("exit 0", warnings);
    await start;
    await vi.waitUntil(() => exits.length > 0, { timeout: 30_000 });
    expect(warnings).toHaveLength(isHeld ? 0 : 1);
    if (!isHeld) expect(warnings[0]).toMatchObject({ msg: "limits.cpus of builds is not held on this computer" });
  });
});

const groupsIn = (name: string): number =>
  existsSync(join(GROUP, name)) && name.startsWith("yellow-harbor-")
    ? readdirSync(join(GROUP, name), { withFileTypes: true }).filter((one) => one.isDirectory()).length
    : 0;

describe("control groups", () => {
  /** A folder that looks like a group of the system, as far as files go. */
  function pretended(controllers: string): string {
    const folder = temporaryFolder();
    writeFileSync(join(folder, "cgroup.controllers"), `${controllers}\n`);
    return folder;
  }

  it("hold CPUs and memory where the system lets them", () => {
    const parent = pretended("cpu memory pids");
    const made = Cgroups.open(parent, "/data/instances");
    if ("why" in made) throw new Error(made.why);
    const [own = ""] = readdirSync(parent).filter((name) => name.startsWith("yellow-harbor-"));
    writeFileSync(join(parent, own, "cgroup.controllers"), "cpu memory\n");
    const open = Cgroups.open(parent, "/data/instances");
    if ("why" in open) throw new Error(open.why);
    expect(readFileSync(join(parent, "cgroup.subtree_control"), "utf8")).toBe("+memory");
    const procs = open.make(INSTANCE, { limits: { cpus: 1.5, memoryMb: 512 } });
    expect(procs).toBe(join(parent, own, INSTANCE, "cgroup.procs"));
    expect(readFileSync(join(parent, own, INSTANCE, "cpu.max"), "utf8")).toBe("150000 100000");
    expect(readFileSync(join(parent, own, INSTANCE, "memory.max"), "utf8")).toBe(String(512 * 1_048_576));
    writeFileSync(join(parent, own, INSTANCE, "memory.events"), "low 0\noom 1\noom_kill 3\n");
    expect(open.wasOverMemory(INSTANCE)).toBe(true);
    expect(open.isEmpty(INSTANCE)).toBe(true);
  });

  it("say why there are none", () => {
    expect(Cgroups.open("off", "/data")).toEqual({ why: "control groups are switched off" });
    expect(Cgroups.open("/proc/none", "/data")).toMatchObject({
      why: expect.stringMatching(/^\/proc\/none\/\S+ cannot be made \(E[A-Z]+\)$/),
    });
  });
});
