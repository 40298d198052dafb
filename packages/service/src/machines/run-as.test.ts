import { createHash } from "node:crypto";
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { BuildSpec } from "@yellow-harbor/protocol";
import pino from "pino";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, temporaryFolder } from "../testing/test-service.ts";
import { allowList } from "./agent/allow-list.ts";
import { whyAssetsWritable } from "./assets.ts";
import type { DriverEvents } from "./driver.ts";
import { outputName } from "./output-keeper.ts";
import { ProcessDriver, type ProcessDriverParts } from "./process-driver.ts";
import { userNamed } from "./run-as.ts";
import { secretsFor } from "./secrets.ts";

const drivers: ProcessDriver[] = [];
afterEach(async () => {
  for (const driver of drivers.splice(0)) driver.close();
  await endAll();
});

const ID = "i_000000000001";

/** Runs a shell script as an instance; resolves with how it ended, what it printed, and the data folder. */
async function run(script: string, more: Partial<ProcessDriverParts> = {}, secrets: Record<string, string> = {}) {
  const data = temporaryFolder();
  mkdirSync(join(data, "instances"), { mode: 0o700 });
  writeFileSync(join(data, "harbor.sqlite"), "the secret", { mode: 0o600 });
  const spec = BuildSpec.parse({ command: "sh", args: ["-c", script], environment: { TOKEN: "{secret.token}" } });
  const end = await new Promise<string>((resolve) => {
    const events: DriverEvents = {
      spawned: () => undefined,
      overLimit: () => undefined,
      startFailed: (_instance, { detail }) => resolve(detail),
      exited: (_instance, { exitCode }) => resolve(`exit ${exitCode}`),
    };
    const driver = new ProcessDriver({
      folder: join(data, "instances"),
      workingFolder: "/",
      serviceUrl: () => "http://127.0.0.1:1",
      events,
      log: pino({ level: "silent" }),
      output: { keepBytes: 1_000_000, keepMs: 60_000 },
      ...more,
    });
    drivers.push(driver);
    const address = { host: "127.0.0.1", port: 0 };
    void driver.start({ instance: ID, spec, environment: {}, secrets, address, ports: {}, level: null, key: "k" });
  });
  const out = join(data, "instances", ID, outputName("out"));
  return { end, data, printed: existsSync(out) ? readFileSync(out, "utf8") : "" };
}

const nobody = userNamed("nobody");

describe("an instance that runs as another user", () => {
  it.skipIf("why" in nobody)(
    "has that user's rights and no more, a folder of its own, and sees nothing of the service",
    async () => {
      if ("why" in nobody) return;
      const script = [
        "id -u; id -G; grep -E 'NoNewPrivs|CapEff' /proc/self/status",
        "cat {data}/../../../harbor.sqlite || echo cannot read",
        "ls {data}/../../.. || echo cannot list",
        "touch {data}/own && echo wrote; echo $HOME $USER",
      ].join("; ");
      const { end, data, printed } = await run(script, { runAs: nobody });
      const own = join(data, "instances", ID, "data");
      expect([end, printed.split("\n")]).toEqual([
        "exit 0",
        [
          String(nobody.uid),
          String(nobody.gid),
          expect.stringMatching(/CapEff:\s0+$/),
          expect.stringMatching(/NoNewPrivs:\s1$/),
          "cannot read",
          "cannot list",
          "wrote",
          `${own} nobody`,
          "",
        ],
      ]);
      expect(statSync(own).mode & 0o777).toBe(0o700);
      expect(statSync(join(data, "instances", ID, outputName("out"))).mode & 0o777).toBe(0o600);
    },
  );

  it.skipIf("why" in nobody)("finds its assets as they were made, or does not start", () => {
    if ("why" in nobody) return;
    const folder = temporaryFolder();
    mkdirSync(join(folder, "levels"));
    writeFileSync(join(folder, "levels", "gate.json"), "{}");
    symlinkSync("nowhere", join(folder, "levels", "gone"));
    expect(whyAssetsWritable(folder, nobody)).toBeUndefined();
    chmodSync(join(folder, "levels", "gate.json"), 0o666);
    expect(whyAssetsWritable(folder, nobody)).toContain("gate.json can be written by nobody");
    // Nothing keeps those apart that run as one user.
    expect(whyAssetsWritable(folder, undefined)).toBeUndefined();
    chownSync(join(folder, "levels", "gate.json"), nobody.uid, nobody.gid);
    chmodSync(join(folder, "levels", "gate.json"), 0o400);
    expect(whyAssetsWritable(folder, nobody)).toBeUndefined();
    expect(whyAssetsWritable(join(folder, "none"), nobody)).toContain("cannot be looked at (ENOENT)");
  });

  it.skipIf("why" in nobody)("is refused as root, as nobody who is there, and without the right to", () => {
    expect(userNamed("root")).toEqual({ why: expect.stringContaining("is root itself") });
    expect(userNamed("no-such-user")).toEqual({ why: expect.stringContaining("there is no user") });
  });
});

describe("an agent's own list", () => {
  it("keeps everything else from being run, whatever the service says", async () => {
    const refused = await run("echo ran", { whyNot: allowList(["/usr/bin/env", `sha256:${"0".repeat(64)}`], "/") });
    expect(refused).toMatchObject({ end: expect.stringContaining("sh is not among what"), printed: "" });
    const sh = readFileSync("/bin/sh");
    const checksum = `sha256:${createHash("sha256").update(sh).digest("hex")}`;
    expect(await run("echo ran", { whyNot: allowList([checksum], "/") })).toMatchObject({ printed: "ran\n" });
  });
});

describe("a secret that a build names", () => {
  it("reaches its process, and is read anew for each", async () => {
    expect((await run("echo $TOKEN", {}, { token: "planted-secret" })).printed).toBe("planted-secret\n");
    const folder = temporaryFolder();
    writeFileSync(join(folder, "token"), "first\nsecond line\n");
    const kept = { secrets: { token: { file: "token" }, other: { environment: "YH_NO_SUCH" } }, folder };
    const spec = (text: string) => BuildSpec.parse({ command: "x", args: [text] });
    expect(secretsFor(spec("--key={secret.token}"), {}, kept)).toEqual({ token: "first" });
    writeFileSync(join(folder, "token"), "renewed");
    expect(secretsFor(spec("-"), { KEY: "{secret.token}" }, kept)).toEqual({ token: "renewed" });
    for (const name of ["other", "none", "constructor"]) {
      expect(secretsFor(spec(`{secret.${name}}`), {}, kept)).toMatch(/cannot be read/);
    }
  });
});
