import { spawn } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import {
  endAll,
  startTestService,
  startVoyage,
  TEST_CONFIG,
  temporaryFolder,
} from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";
import { runYh, spawnYh } from "./run-yh.ts";

afterEach(endAll);

describe("yh, looking into a service", () => {
  it("shows status, rooms and instances as tables and as JSON", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    expect((await runYh(["room", "list", ...url])).out).toContain("No rooms. A player opens one");
    expect((await runYh(["instance", "list", ...url])).out).toContain("No instances.");
    const { ansel, room } = await startVoyage(service);
    const { instance = "" } = await ansel.nextPass();
    const status = await runYh(["status", ...url]);
    expect(status.out).toMatch(/players\s+2 here, 0 away, limit 10000/);
    expect(status.out).toMatch(/rooms\s+1 travelling/);
    const list = await runYh(["room", "list", ...url]);
    expect(list.out).toContain(room.code);
    expect(list.out).toMatch(/travelling\s+2\/2\s+brine-gate\s+Ansel/);
    expect(list.err).toContain(`next: yh room show ${room.code}`);
    const shown = await runYh(["room", "show", room.code.toLowerCase(), ...url]);
    expect(shown.out).toContain(`${instance} is up, 0 of 2 have arrived.`);
    const json = JSON.parse((await runYh(["room", "show", room.id, "--json", ...url])).out);
    expect(json).toMatchObject({ id: room.id, phase: "travelling", explanation: { canStart: false } });
    const instances = JSON.parse((await runYh(["instance", "list", "--json", ...url])).out);
    expect(instances.instances).toHaveLength(1);
    expect((await runYh(["instance", "logs", instance, ...url])).out).toContain("mode good on port");
  });

  it("follows the output of an instance until it has ended", async () => {
    const service = await startTestService();
    const { ansel, brisa } = await startVoyage(service);
    const { instance = "" } = await ansel.nextPass();
    const following = runYh(["instance", "logs", "-f", instance, "--url", service.url]);
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    expect(await following).toMatchObject({ code: 0, out: expect.stringContaining("mode good on port") });
  });

  it("ends with the exit code of the problem, in words on standard error and in JSON", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    expect(await runYh(["room", "show", "NOPE", ...url])).toMatchObject({
      code: 3,
      out: "",
      err: expect.stringContaining("(room-unknown)"),
    });
    const json = await runYh(["room", "show", "NOPE", "--json", ...url]);
    expect(JSON.parse(json.out)).toMatchObject({ code: "room-unknown", status: 404 });
    expect(await runYh(["instance", "logs", "i_000000000000", ...url])).toMatchObject({ code: 3 });
    expect(await runYh(["room", "list", "--limit", "lots", ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("--limit lots"),
    });
    expect(await runYh(["roam"])).toMatchObject({ code: 2, err: expect.stringContaining("room") });
    expect(await runYh(["status", "--url", "not an address"])).toMatchObject({ code: 2 });
    await service.stop();
    const gone = await runYh(["status", ...url]);
    expect(gone).toMatchObject({ code: 6, err: expect.stringContaining("Nothing listens there") });
    expect(gone.err).not.toContain("    at ");
  });
});

describe("yh as a process", () => {
  it("prints to its own streams, takes the address from its environment, and ends with the code of what happened", async () => {
    const service = await startTestService();
    const env = { YH_URL: service.url };
    const wrong = join(temporaryFolder(), "wrong.yaml");
    writeFileSync(wrong, "harbor: 7\n");
    const ran = await Promise.all(
      [
        ["status", "--json"],
        ["rooms"],
        ["room", "show", "NOPE"],
        ["room", "result", "NOPE", "no json"],
        ["status", "--url", "http://127.0.0.1:1"],
        ["config", "check", wrong],
      ].map((args) => spawnYh(args, { env })),
    );
    expect(ran.map(({ code }) => code)).toEqual([0, 2, 3, 2, 6, 7]);
    expect(JSON.parse(ran[0]?.out ?? "")).toMatchObject({ harbor: "test-harbor" });
    expect(ran[2]).toMatchObject({ out: "", err: expect.stringContaining("room-unknown") });
    const { room } = await (await service.player("Ansel")).openRoom();
    const play = await spawnYh(["play", "--name", "Brisa"], { env, input: `join ${room.code}\nleave\n` });
    expect(play).toMatchObject({ code: 0, out: expect.stringContaining(room.code) });
  });
});

describe("yh, acting on a service", () => {
  it("hands over, kicks and closes, and says what came of it", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    const [ansel, brisa, corin] = await Promise.all([
      service.player("Ansel"),
      service.player("Brisa"),
      service.player("Corin"),
    ]);
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ room: room.id });
    await corin.joinRoom({ room: room.id });
    expect(await runYh(["room", "hand-over", room.code, "Brisa", ...url])).toMatchObject({
      code: 0,
      out: expect.stringContaining("Brisa is host"),
    });
    const told = new Promise<{ why?: string }>((resolve) => corin.on("outOfRoom", resolve));
    expect(await runYh(["room", "kick", room.code, corin.id, "--reason", "too loud", "--ban", ...url])).toMatchObject({
      code: 0,
    });
    expect(await told).toMatchObject({ why: "too loud", by: "operator" });
    expect((await runYh(["player", "list", ...url])).out).toMatch(/Corin\s+here\s+quayside\s+-/);
    expect((await runYh(["player", "list", "--search", "ORI", ...url])).out).toMatch(/Corin[\s\S]*1 player\n/);
    expect((await runYh(["player", "list", "--search", "gull", ...url])).out).toContain("No player fits.");
    expect(await runYh(["room", "kick", room.code, corin.id, ...url])).toMatchObject({
      code: 3,
      err: expect.stringContaining("member-unknown"),
    });
    const namesake = await service.player("Corin");
    expect(await runYh(["player", "kick", "corin", ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("Several players are called corin; give the id: "),
    });
    expect(await runYh(["player", "kick", namesake.id, ...url])).toMatchObject({ code: 0 });
    expect(await runYh(["player", "kick", "Nobody", ...url])).toMatchObject({
      code: 3,
      err: expect.stringContaining("No player is called Nobody"),
    });
    expect(await runYh(["player", "kick", "corin", "--reason", "cheating", ...url])).toMatchObject({ code: 0 });
    expect(await runYh(["room", "close", room.code, "--reason", "maintenance", "--json", ...url])).toMatchObject({
      code: 0,
    });
    expect((await runYh(["room", "list", ...url])).out).toContain("No rooms.");
  });
});

describe("yh play", () => {
  it("plays the lines of a pipe, and another player joins by the code it printed", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    const host = runYh(["play", "--name", "Ansel", ...url], {
      input: "open 2 Low water\nlevel brine-gate\nready\nwait members 2 20\nwait travelling 3\npass\nquit\n",
    });
    const { rooms } = await pollRooms(service);
    const code = rooms[0]?.code ?? "";
    const start = runYh(["play", "--name", "Brisa", "--json", ...url], {
      input: `join ${code.toLowerCase()}\nready\nwait travelling 3\nwho\n`,
    });
    const ansel = await service.operator.room(code);
    expect(ansel.name).toBe("Low water");
    const watcher = await service.player("Corin");
    await watcher.until(() => true);
    // The host of the pipe does not start by itself here: it waits, so that the lines above are seen to wait.
    await untilReady(service, code);
    const other = await runYh(["play", "--name", "Dovie", ...url], { input: `join ${code}\n` });
    expect(other).toMatchObject({ code: 4, err: expect.stringContaining("(room-full)") });
    await Promise.race([host, start, new Promise((resolve) => setTimeout(resolve, 100))]);
    expect((await service.operator.explainRoom(code)).canStart).toBe(true);
    await service.stop();
    const [ran, joined] = await Promise.all([host, start]);
    expect(ran.out).toContain("Brisa joins the room.");
    expect(
      joined.out
        .split("\n")
        .filter(Boolean)
        .every((line) => typeof JSON.parse(line) === "object"),
    ).toBe(true);
  });

  it("ends with the problem's exit code at the first refusal", async () => {
    const service = await startTestService();
    const ran = await runYh(["play", "--name", "Ansel", "--url", service.url], { input: "open 2\nstart\nquit\n" });
    expect(ran).toMatchObject({
      code: 4,
      err: expect.stringContaining(
        "Cannot start: the host has not picked a level; needs 1 more player; Ansel is not ready.",
      ),
    });
    const misfit = await runYh(["play", "--build", "game-0", "--url", service.url], { input: "" });
    expect(misfit).toMatchObject({ code: 6, err: expect.stringContaining("update the game to game-1") });
  });
});

describe("yh serve", () => {
  it("says in one line what to do about a taken port, a locked folder, a wrong configuration", async () => {
    const service = await startTestService();
    const folder = temporaryFolder();
    const config = join(folder, "harbor.yaml");
    writeFileSync(config, TEST_CONFIG());
    const taken = await runYh(["serve", "-c", config, "-d", join(folder, "data"), "--port", String(service.port)]);
    expect(taken).toMatchObject({ code: 6, err: expect.stringContaining("choose another with --port") });
    const locked = await runYh(["serve", "-c", config, "-d", service.data]);
    expect(locked).toMatchObject({ code: 6, err: expect.stringContaining("in use by another process") });
    expect(await runYh(["serve", "-c", join(folder, "none.yaml")])).toMatchObject({
      code: 7,
      err: expect.stringContaining("is not there; name another file with --config"),
    });
    expect(await runYh(["serve", "-c", config, "--port", "70000"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("0 to 65535"),
    });
    writeFileSync(config, TEST_CONFIG().replace("harbor:", "habor:"));
    const wrong = await runYh(["serve", "-c", config]);
    expect(wrong).toMatchObject({
      code: 7,
      err: expect.stringContaining(`${config}:2:1 habor: unknown key habor; did you mean harbor?`),
    });
  });

  it("stops cleanly on SIGTERM, and prints its token beside the running service", async () => {
    const folder = temporaryFolder();
    const config = join(folder, "harbor.yaml");
    writeFileSync(
      config,
      TEST_CONFIG().replace("log: { level: silent }", "log: { level: info }").replace("listen:", "data: data\nlisten:"),
    );
    const child = spawn(process.execPath, [join(ROOT, "packages/cli/bin/yh.js"), "serve", "-c", config], {
      stdio: ["ignore", "pipe", "inherit"],
    });
    const lines: { msg: string; url?: string }[] = [];
    const ready = new Promise<string>((resolve) => {
      child.stdout.on("data", (chunk: Buffer) => {
        for (const line of String(chunk).trim().split("\n")) lines.push(JSON.parse(line));
        const url = lines.find((line) => line.msg === "ready")?.url;
        if (url) resolve(url);
      });
    });
    const url = await ready;
    const token = (await runYh(["token", "-c", config])).out.trim();
    expect(token).toMatch(/^[\w-]{43}$/);
    expect((await fetch(`${url}/v1/status`, { headers: { authorization: `Bearer ${token}` } })).status).toBe(200);
    const ended = new Promise<number | null>((resolve) => child.once("exit", resolve));
    child.kill("SIGTERM");
    expect(await ended).toBe(0);
    expect(lines.at(-1)?.msg).toBe("stopped");
  });
});

describe("yh config", () => {
  it("lists every fault with its place, and says so of a file that is right", async () => {
    const folder = temporaryFolder();
    const config = join(folder, "harbor.yaml");
    writeFileSync(config, TEST_CONFIG());
    expect(await runYh(["config", "check", config])).toMatchObject({
      code: 0,
      out: expect.stringContaining("lobbies 1, room kinds 1"),
    });
    writeFileSync(config, TEST_CONFIG().replace("pool: sluice }", "pool: sluise }").replace("[crews]", "[crew]"));
    const wrong = await runYh(["config", "check", config]);
    expect(wrong.code).toBe(7);
    expect(wrong.out).toContain(`${config}:5:`);
    expect(wrong.out).toContain("did you mean sluice?");
    expect(wrong.out).toContain("2 faults");
    expect(JSON.parse((await runYh(["config", "check", config, "--json"])).out).faults).toHaveLength(2);
    expect(JSON.parse((await runYh(["config", "schema"])).out)).toMatchObject({
      title: "Yellow Harbor configuration",
      type: "object",
    });
  });
});

type Service = Awaited<ReturnType<typeof startTestService>>;

/** The rooms, once there are some: told by the stream, not asked for again and again. */
async function pollRooms(service: Service) {
  for await (const _ of service.operator.watch(AbortSignal.timeout(15_000))) {
    const page = await service.operator.rooms();
    if (page.rooms[0]?.level) return page;
  }
  throw new Error("no room was opened");
}

async function untilReady(service: Service, code: string): Promise<void> {
  for await (const _ of service.operator.watch(AbortSignal.timeout(15_000))) {
    if ((await service.operator.explainRoom(code)).canStart) return;
  }
}

describe("what is refused", () => {
  it("is refused everywhere alike: unknown commands, unknown lobbies; and the journal shows no secret", async () => {
    const unknown = await runYh(["rooms", "--json"]);
    expect([unknown.code, JSON.parse(unknown.out)]).toEqual([2, expect.objectContaining({ code: "usage" })]);
    const service = await startTestService();
    const url = ["--url", service.url];
    expect(await runYh(["room", "list", "--lobby", "nowhere", ...url])).toMatchObject({
      code: 3,
      err: expect.stringContaining("There is no lobby nowhere; the lobbies are quayside."),
    });
    const bots = await runYh(["bots", "--count", "1", "--seconds", "1", "--lobby", "nowhere", ...url]);
    expect([bots.code, bots.out]).toEqual([3, expect.stringContaining("lobby-unknown")]);
    const journal = await runYh(["journal", "--json", "--limit", "1", ...url]);
    expect(journal.out).toContain("harbor.founded");
    expect(journal.out).not.toContain("codeKey");
  });
});

describe("yh --version", () => {
  it("tells the versions of the product, the wire and the files", async () => {
    const { version } = JSON.parse(readFileSync(join(ROOT, "package.json"), "utf8")) as { version: string };
    const ran = await runYh(["--version"]);
    expect(ran).toMatchObject({ code: 0, err: "" });
    expect(ran.out).toContain(`Yellow Harbor ${version}\n`);
    expect(JSON.parse((await runYh(["--version", "--json"])).out)).toMatchObject({
      product: version,
      wire: { subprotocol: "yellow-harbor.1" },
      files: { schema: expect.any(Number), snapshot: expect.any(Number) },
    });
  });
});
