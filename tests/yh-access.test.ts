import { appendFileSync, writeFileSync } from "node:fs";
import { availableParallelism } from "node:os";
import { join } from "node:path";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, temporaryFolder, testConfig } from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

describe("yh status", () => {
  it("shows what gives reason to look at keys, and the processes that have connections", async () => {
    const service = await startTestService(
      testConfig("good", (one) => ({ ...one, operators: { ...one.operators, access: "key" } })),
      { workers: Math.min(2, availableParallelism()) },
    );
    const url = ["--url", service.url, "--token", service.operatorToken];
    await service.player("Ansel");
    expect((await runYh(["status", ...url])).out).not.toMatch(/wrong|stolen/);
    await fetch(`${service.url}/v1/rooms`, { headers: { authorization: "Bearer wrong" } });
    const { out } = await runYh(["status", ...url]);
    expect(out).toMatch(/keys {7}1 wrong one was shown, the last from 127\.0\.0\.1/);
    if (availableParallelism() > 1) expect(out).toMatch(/workers {4}1 connection \(pid \d+(, \d+ MiB)?\)/);
  });
});

describe("yh ban", () => {
  it("bans somebody who is here, lists who is banned and why, and lifts it", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    expect((await runYh(["ban", "list", ...url])).out).toContain("Nobody is banned.");
    await service.player("Rude", { device: "a-device-key-that-is-long-enough-12345" });
    const banned = await runYh(["player", "ban", "Rude", "--reason", "cheating", "--hours", "3", ...url]);
    expect(banned).toMatchObject({
      code: 0,
      out: expect.stringMatching(/^device:.* is banned until .*yh ban lift x_/),
    });
    await runYh(["ban", "add", "--network", "192.0.2.0/24", "--everybody", ...url]);
    const { bans } = JSON.parse((await runYh(["ban", "list", "--json", ...url])).out);
    expect(bans).toHaveLength(2);
    const shown = (await runYh(["ban", "list", ...url])).out;
    expect(shown).toMatch(/192\.0\.2\.0\/24 \(everybody\)/);
    expect(shown).toMatch(/cheating/);
    const [{ id }] = bans;
    expect(await runYh(["ban", "lift", id, ...url])).toMatchObject({ code: 0 });
    expect(await runYh(["ban", "lift", id, ...url])).toMatchObject({
      code: 3,
      err: expect.stringContaining("yh ban list"),
    });
    expect(await runYh(["ban", "add", ...url])).toMatchObject({ code: 2 });
    expect(await runYh(["ban", "add", "--network", "192.0.2.0/99", ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("such as 192.0.2.7, 192.0.2.0/24"),
    });
  });
});

describe("yh player export and erase", () => {
  it("print what is kept of somebody, and replace it when that is meant", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    await service.player("Zephyrine");
    const kept = JSON.parse((await runYh(["player", "export", "Zephyrine", ...url])).out);
    expect(kept).toMatchObject({ names: ["Zephyrine"], more: false });
    expect(await runYh(["player", "erase", "Zephyrine", ...url])).toMatchObject({ code: 2 });
    const erased = await runYh(["player", "erase", "Zephyrine", "--yes", ...url]);
    expect(erased).toMatchObject({ code: 0, out: expect.stringMatching(/is erased from \d+ events, as 1 player/) });
    expect((await runYh(["player", "export", kept.players[0], ...url])).out).not.toContain("Zephyrine");
    expect(await runYh(["player", "export", "game:nobody", ...url])).toMatchObject({ code: 0 });
  });
});

describe("yh audit", () => {
  it("shows what was done, by whom, prints all of it as JSON Lines, and notices a line that is gone", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    expect((await runYh(["audit", ...url])).out).toContain("No entries");
    const { room } = await (await service.player("Ansel")).openRoom();
    await runYh(["room", "close", room.id, "--reason", "maintenance", ...url]);
    await runYh(["key", "create", "Pipeline", "--role", "deploy", ...url]);
    const { out } = await runYh(["audit", ...url]);
    expect(out).toMatch(new RegExp(`anybody here .*closeRoom .*${room.id} .*done .*maintenance`));
    expect((await runYh(["audit", "--action", "createKey", ...url])).out).not.toContain("closeRoom");
    const lines = (await runYh(["audit", "--export", ...url])).out.trim().split("\n");
    expect(lines.map((line) => JSON.parse(line).action)).toEqual(["createKey", "closeRoom"]);
    expect((await runYh(["audit", "--check", ...url])).out).toContain("Every entry is there as it was written.");
    const file = new Database(join(service.data, "harbor.sqlite"));
    file.exec("DELETE FROM audit WHERE seq = 1");
    file.close();
    expect(await runYh(["audit", "--check", ...url])).toMatchObject({
      code: 6,
      out: expect.stringContaining("It was changed"),
    });
  });
});

describe("yh console and session", () => {
  it("print a link that logs one browser in, list who is logged in, and end it", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    expect((await runYh(["session", "list", ...url])).out).toContain("No browser is logged in.");
    const { link } = JSON.parse((await runYh(["console", "--json", ...url])).out);
    expect(link).toMatch(new RegExp(`^${service.url}/#log-in=[\\w-]{32}$`));
    const code = link.split("=")[1];
    await service.operator.logIn({ code });
    const { sessions } = JSON.parse((await runYh(["session", "list", "--json", ...url])).out);
    expect(sessions).toMatchObject([{ name: "first key", role: "administer", from: "127.0.0.1" }]);
    expect(await runYh(["session", "end", sessions[0].id, ...url])).toMatchObject({ code: 0 });
    expect(await runYh(["session", "end", sessions[0].id, ...url])).toMatchObject({ code: 3 });
  });
});

describe("yh serve", () => {
  it("says what it refuses to start with, and knows its risks by name", async () => {
    const file = join(temporaryFolder(), "harbor.yaml");
    writeFileSync(
      file,
      "harbor: x\nplayers: { builds: [game-1] }\nlobbies: { a: { title: A, roomKinds: [k] } }\nroomKinds: { k: { capacity: { min: 1, max: 2, default: 2 }, levels: [l], destinations: [relayed], resultBy: host } }\nlevels: { l: { title: L, players: { min: 1, max: 2 } } }\n",
    );
    const refused = await runYh(["serve", "--config", file, "--host", "0.0.0.0", "--port", "0"]);
    expect(refused).toMatchObject({ code: 7, err: expect.stringMatching(/no-tls: .*set listen.tls/) });
    expect(await runYh(["serve", "--config", file, "--accept-risk", "everything"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("there are no-tls, root, root-instances, per-address, probe-any"),
    });
    appendFileSync(file, "operators: { access: open }\n");
    const open = await runYh(["serve", "--config", file, "--host", "0.0.0.0", "--port", "0"]);
    expect(open.code).toBe(7);
  });
});
