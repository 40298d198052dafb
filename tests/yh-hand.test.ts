import { execFileSync } from "node:child_process";
import { chmodSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, temporaryFolder, testConfig } from "../packages/service/src/testing/test-service.ts";
import { runYh, spawnYh } from "./run-yh.ts";

afterEach(endAll);

const closed = () => testConfig("good", (one) => ({ ...one, operators: { ...one.operators, access: "key" } }));

describe("yh profile", () => {
  it("keeps address and key in a file for its owner alone, and asks by the profile in use or named", async () => {
    const { url, operatorToken, stop } = await startTestService(closed());
    const home = temporaryFolder();
    const env = { XDG_CONFIG_HOME: home, XDG_STATE_HOME: home };
    const yh = (args: string[], input = "") => spawnYh(args, { env, input });
    expect(await yh(["profile", "list"])).toMatchObject({ code: 0, out: expect.stringContaining("No profiles") });
    const added = await yh(["profile", "add", "live", url, "--key-file", "-"], `${operatorToken}\n`);
    expect(added.out).toMatch(/^live {5}yes {5}kept {2}http/m);
    expect(added.out).not.toContain(operatorToken);
    const file = join(home, "yellow-harbor/profiles.json");
    expect(statSync(file).mode & 0o777).toBe(0o600);
    await yh(["profile", "add", "other", "http://127.0.0.1:1"]);
    expect((await yh(["status"])).out).toContain("test-harbor");
    expect(await yh(["status", "--profile", "other"])).toMatchObject({ code: 6 });
    expect(await spawnYh(["status"], { env: { ...env, YH_PROFILE: "other" } })).toMatchObject({ code: 6 });
    // The key of a profile goes to its own service alone.
    const heard: (string | undefined)[] = [];
    const stranger = createServer(({ headers }, response) => {
      heard.push(headers.authorization);
      response.writeHead(404).end("{}");
    });
    await new Promise<void>((resolve) => stranger.listen(0, "127.0.0.1", resolve));
    await yh(["status", "--url", `http://127.0.0.1:${(stranger.address() as AddressInfo).port}`]);
    stranger.close();
    expect(heard).toEqual([undefined]);
    await yh(["profile", "use", "other"]);
    expect(await yh(["status"])).toMatchObject({ code: 6 });
    expect((await yh(["status", "--profile", "live"])).code).toBe(0);
    await yh(["profile", "remove", "live"]);
    expect(readFileSync(file, "utf8")).not.toContain(operatorToken);
    await stop();
  });

  it("refuses a file that others can read or that is none, and names that are none", async () => {
    const home = temporaryFolder();
    const env = { XDG_CONFIG_HOME: home };
    const file = join(home, "yellow-harbor/profiles.json");
    mkdirSync(join(home, "yellow-harbor"));
    writeFileSync(file, JSON.stringify({ profiles: {} }), { mode: 0o600 });
    chmodSync(file, 0o644);
    expect(await spawnYh(["status"], { env })).toMatchObject({
      code: 2,
      err: expect.stringContaining(`chmod 600 ${file}`),
    });
    chmodSync(file, 0o600);
    expect(await spawnYh(["status", "--profile", "nowhere"], { env })).toMatchObject({
      code: 2,
      err: expect.stringContaining("There is no profile nowhere"),
    });
    expect(await spawnYh(["profile", "add", "a b", "http://127.0.0.1:1"], { env })).toMatchObject({ code: 2 });
    expect(await spawnYh(["profile", "add", "one", "ftp://x"], { env })).toMatchObject({ code: 2 });
    writeFileSync(file, JSON.stringify({ profiles: { live: { url: 7 } } }));
    expect(await spawnYh(["profile", "list", "--json"], { env })).toMatchObject({
      code: 2,
      out: expect.stringContaining("profiles.live.url"),
    });
  });
});

describe("yh completion", () => {
  const candidates = (out: string) => out.split(/\s+/).filter((word) => word !== "");

  it("completes commands and options in a real bash", async () => {
    const { out } = await runYh(["completion", "bash"]);
    const file = join(temporaryFolder(), "yh.bash");
    writeFileSync(file, out);
    const complete = (...words: string[]) => {
      const typed = words.map((word) => `"${word}"`).join(" ");
      const script = `source ${file}; COMP_WORDS=(${typed}); COMP_CWORD=${words.length - 1}; _yh; echo "\${COMPREPLY[@]}"`;
      return candidates(execFileSync("bash", ["--norc", "-c", script], { encoding: "utf8" }));
    };
    expect(complete("yh", "ro")).toEqual(["room"]);
    expect(complete("yh", "--json", "room", "")).toEqual(expect.arrayContaining(["list", "show", "kick", "--json"]));
    expect(complete("yh", "status", "--w")).toEqual(["--watch"]);
    expect(complete("yh", "config", "di")).toEqual(["diff"]);
  });

  it.runIf(existsSync("/usr/bin/fish"))("completes them in a real fish, with what each is for", async () => {
    const { out } = await runYh(["completion", "fish"]);
    const file = join(temporaryFolder(), "yh.fish");
    writeFileSync(file, out);
    const run = (line: string) =>
      execFileSync("fish", ["--no-config", "-c", `source ${file}; complete -C "${line}"`], { encoding: "utf8" });
    expect(run("yh room ")).toMatch(/^kick\tkick a member from a room$/m);
    expect(run("yh status --w")).toMatch(/^--watch\t/m);
  });

  it.runIf(existsSync("/usr/bin/zsh"))("completes them in a real zsh", async () => {
    const { out } = await runYh(["completion", "zsh"]);
    const file = join(temporaryFolder(), "_yh");
    writeFileSync(file, out);
    const script = `CURRENT=3; words=(yh room ""); _describe() { print -l -- \${(P)2} }; source ${file}; _yh`;
    expect(execFileSync("zsh", ["-f", "-c", script], { encoding: "utf8" })).toMatch(
      /^kick:kick a member from a room$/m,
    );
  });

  it("refuses a shell that it does not know", async () => {
    expect(await runYh(["completion", "tcsh"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("bash, zsh, fish"),
    });
  });
});

describe("yh status --watch", () => {
  it("shows it again and again, one object a line where JSON is asked for, and waits for a service that is away", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    const args = ["status", "--watch", "--every", "1", ...url];
    const { out } = await runYh([...args, "--count", "2", "--json"]);
    const lines = out
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(lines.map(({ harbor }) => harbor)).toEqual(["test-harbor", "test-harbor"]);
    const watching = runYh([...args, "--count", "3"]);
    await service.stop();
    const { code, out: text } = await watching;
    expect(code).toBe(0);
    expect(text).toMatch(/No answer from/);
  });
});

describe("yh journal", () => {
  it("follows new events, also over a restart of the service", async () => {
    const service = await startTestService();
    await service.player("Ansel");
    const following = runYh([
      "journal",
      "--follow",
      "--kind",
      "player.connected",
      "--limit",
      "2",
      "--json",
      "--url",
      service.url,
    ]);
    await service.player("Brisa");
    const again = await service.restart();
    await again.player("Corin");
    const { out, code } = await following;
    expect(code).toBe(0);
    const names = out
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line).name);
    expect(names).toHaveLength(2);
    expect(names.at(-1)).toBe("Corin");
  });

  it("writes what was recorded in a time to a file, a JSON object a line, and leaves none when it cannot", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    await service.player("Ansel");
    const { events } = await service.operator.journal({});
    const last = events.at(-1)?.atMs ?? 0;
    // The next millisecond at the earliest.
    while (Date.now() <= last + 1) await new Promise((resolve) => setImmediate(resolve));
    const between = new Date().toISOString();
    await service.player("Brisa");
    const folder = temporaryFolder();
    const [before, after] = [join(folder, "before.jsonl"), join(folder, "after.jsonl")];
    expect(await runYh(["journal", "--until", between, "--export", before, ...url])).toMatchObject({
      code: 0,
      out: expect.stringContaining(`written to ${before}`),
    });
    await runYh(["journal", "--since", between, "--kind", "player", "--export", after, ...url]);
    const read = (file: string) =>
      readFileSync(file, "utf8")
        .trim()
        .split("\n")
        .map((line) => JSON.parse(line) as { kind: string; name?: string });
    const names = (file: string) => read(file).flatMap(({ kind, name }) => (kind === "player.connected" ? [name] : []));
    expect(names(before)).toEqual(["Ansel"]);
    expect(names(after)).toEqual(["Brisa"]);
    expect(read(after).every(({ kind }) => kind.startsWith("player."))).toBe(true);
    expect(await runYh(["journal", "--export", join(folder, "no/where.jsonl"), ...url])).toMatchObject({ code: 2 });
    expect(await runYh(["journal", "--since", "yesterday", ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("--since yesterday is no time"),
    });
  });
});

describe("yh of another version than the service", () => {
  it("says so once, on standard error, and goes on", async () => {
    const reply = { ...{ harbor: "far", version: "9.1.0", wire: 1, accepts: [], seenAs: "127.0.0.1" } };
    const server = createServer((_request, response) => {
      response.setHeader("x-yh-version", "9.1.0");
      response.end(JSON.stringify({ ...reply, alerts: [], keys: [] }));
    });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const { err, out } = await spawnYh(["key", "list", "--url", url]);
    server.close();
    expect(err).toMatch(
      /^The service is version 9\.1\.0 and this yh is 0\.\d+\.\d+; take the yh of the same version\.$/m,
    );
    expect(out).not.toContain("9.1.0");
  });
});
