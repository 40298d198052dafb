import { execFile } from "node:child_process";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, testConfig } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

const sided = testConfig(undefined, (config) => {
  const { crews } = config.roomKinds;
  const { quayside } = config.lobbies;
  if (crews === undefined || quayside === undefined) return config;
  const sides = { names: ["ebb", "flood"], max: 2, apart: null };
  return {
    ...config,
    roomKinds: { crews: { ...crews, sides } },
    lobbies: { quayside: { ...quayside, chat: { perSecond: 5 } } },
  };
});

describe("yh explain, ban, unban and notify", () => {
  it("answer why a player may not join, change it, and reach the players", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom({ capacity: 1 });
    await runYh(["room", "ban", room.code, brisa.id, "--reason", "cheating", ...url]);
    const why = await runYh(["explain", "join", "brisa", room.code, ...url]);
    expect(why.code).toBe(0);
    expect(why.out).toContain(`Brisa is banned from room ${room.code}.`);
    expect(why.out).toContain("What would change it: a member leaves.  room-full");
    const json = JSON.parse((await runYh(["explain", "join", brisa.id, room.code, "--json", ...url])).out);
    expect(json).toMatchObject({ canJoin: false, against: [{ code: "banned-from-room" }, { code: "room-full" }] });
    expect(await runYh(["room", "unban", room.code, brisa.id, ...url])).toMatchObject({ code: 0 });
    expect(await runYh(["room", "unban", room.code, brisa.id, ...url])).toMatchObject({ code: 3 });
    expect((await runYh(["explain", "room", room.code, ...url])).out).toContain("Cannot start: ");
    expect(await runYh(["explain", "join", "p_000000000000", room.code, ...url])).toMatchObject({ code: 3 });

    const heard = new Promise((resolve) => ansel.on("notice", resolve));
    expect((await runYh(["room", "notify", room.code, "tide", "at", "six", ...url])).out).toBe(
      "1 player has been told.\n",
    );
    expect(await heard).toMatchObject({ to: "room", text: "tide at six" });
    expect((await runYh(["player", "notify", "all", "good evening", ...url])).out).toBe("2 players have been told.\n");
    expect(await runYh(["room", "result", room.code, "[{]", ...url])).toMatchObject({ code: 2 });
    expect(await runYh(["room", "result", room.code, `[{"player":"${brisa.id}","score":1}]`, ...url])).toMatchObject({
      code: 5,
      err: expect.stringContaining("result-not-yours"),
    });
  });
});

describe("yh watch", () => {
  it("prints what happens in a room alone, and ends with it", async () => {
    const service = await startTestService();
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom();
    const watching = runYh(["watch", "--room", room.code, "--url", service.url]);
    await untilWatched(service);
    await brisa.openRoom({ name: "somewhere else" });
    await ansel.changeRoom({ name: "Low water" });
    await ansel.leaveRoom();
    const { code, out } = await watching;
    expect(code).toBe(0);
    expect(out).toContain(`Ansel changes room ${room.code}: name Low water.`);
    expect(out).not.toContain("Brisa");
    expect(out.trim().split("\n").at(-1)).toContain("is empty and closes");
  });

  it("prints JSON Lines of a lobby, as many as asked for, and refuses one that is not there", async () => {
    const service = await startTestService();
    const watching = runYh(["watch", "--lobby", "quayside", "--count", "2", "--json", "--url", service.url]);
    await untilWatched(service);
    const ansel = await service.player("Ansel");
    await ansel.openRoom();
    const lines = (await watching).out.trim().split("\n");
    expect(lines.map((line) => JSON.parse(line).kind)).toEqual(["lobby.joined", "room.opened"]);
    const url = ["--url", service.url];
    expect(await runYh(["watch", "--lobby", "nowhere", ...url])).toMatchObject({ code: 3 });
    expect(await runYh(["watch", "--room", "CCCCC", ...url])).toMatchObject({ code: 3 });
    expect(await runYh(["watch", "--seconds", "1", ...url])).toMatchObject({ code: 0, out: "" });
  });
});

describe("yh in a pipe", () => {
  it("ends quietly when nobody reads on", async () => {
    const script = `"${process.execPath}" "${join(ROOT, "packages/cli/bin/yh.js")}" watch --seconds 3 --url "$0" | head -n 1`;
    const service = await startTestService();
    const piped = new Promise<{ out: string; err: string }>((resolve) => {
      execFile("sh", ["-c", script, service.url], (_error, out, err) => resolve({ out, err }));
    });
    await untilWatched(service);
    for (const name of ["Ansel", "Brisa", "Corin"]) await (await service.player(name)).openRoom();
    const { out, err } = await piped;
    expect(out.trim().split("\n")).toHaveLength(1);
    expect(err).not.toContain("EPIPE");
  });
});

describe("yh journal", () => {
  it("lists what was recorded about a room, page after page, and exports JSON Lines", async () => {
    const service = await startTestService();
    const url = ["--url", service.url];
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    for (let n = 0; n < 30; n++) await ansel.board.set("tide", n);
    const lines = async (...args: string[]) => {
      const ran = await runYh(["journal", ...args, "--json", ...url]);
      return ran.out
        .split("\n")
        .filter(Boolean)
        .map((line) => JSON.parse(line) as { seq: number; kind: string; room?: string });
    };
    const about = await lines("--about", room.id, "--limit", "500");
    expect(about[0]).toMatchObject({ kind: "room.opened", room: room.id });
    expect(about.filter(({ kind }) => kind === "room.board-set")).toHaveLength(30);
    expect(about.map(({ seq }) => seq)).toEqual([...about.map(({ seq }) => seq)].sort((a, b) => a - b));
    expect((await lines("--kind", "player")).map(({ kind }) => kind)).toContain("player.connected");
    expect(await lines("--last", "5")).toHaveLength(5);
    expect(await lines("--kind", "room.board-set", "--limit", "7")).toHaveLength(7);
    const first = await service.operator.journal({ limit: 10 });
    const second = await service.operator.journal({ limit: 10, after: first.next ?? 0 });
    expect(second.events[0]?.seq).toBe((first.events.at(-1)?.seq ?? 0) + 1);
    expect(await runYh(["journal", "--about", "p_nobody", ...url])).toMatchObject({
      code: 0,
      out: "",
      err: expect.stringContaining("no event"),
    });
  });
});

describe("yh play, together", () => {
  it("takes sides, swaps, sets, passes turns and talks", async () => {
    const service = await startTestService(sided);
    const ansel = await service.player("Ansel");
    const { room } = await ansel.joinOrOpen({ name: "Spring tide" });
    const lines = [
      "chat anybody here?",
      "join-or-open spring tide",
      "swap 0",
      "side ebb",
      "place 3",
      "follow",
      "rooms open",
      "who",
      "leave",
    ];
    const heard = new Promise((resolve) =>
      ansel.on("change", ({ update }) => update?.kind === "member-moved" && resolve(update)),
    );
    const ran = await runYh(["play", "--name", "Brisa", "--url", service.url], { input: lines.join("\n") });
    expect(ran).toMatchObject({ code: 0, err: "" });
    expect(ran.out).toContain(`You are in room ${room.code}.`);
    expect(ran.out).toContain("3  Brisa  ebb, offers Ansel to swap");
    expect(await heard).toMatchObject({ kind: "member-moved" });
    const turns = await runYh(["play", "--name", "Corin", "--url", service.url], {
      input: "open 2 Neap tide\nset weather fog\nturn\nwho\nno-turns\nagain\n",
    });
    expect(turns.out).toContain("0  Corin  ebb, host, has the turn");
    expect(turns.out).toContain("Settings: weather fog.");
    expect(turns).toMatchObject({ code: 4, err: expect.stringContaining("wrong-phase") });
  });
});

describe("yh bots", () => {
  it("come in with every behaviour, are counted, and are gone afterwards", async () => {
    const service = await startTestService();
    const ran = await runYh(["bots", "--count", "10", "--seconds", "8", "--json", "--url", service.url]);
    expect(ran.code).toBe(0);
    const tally = JSON.parse(ran.out);
    expect(tally).toMatchObject({ connected: 0, faults: {}, started: 0 });
    expect(tally.hellos).toBeGreaterThanOrEqual(10);
    expect(tally.roomsOpened).toBeGreaterThan(0);
    expect(tally.roomsJoined).toBeGreaterThan(0);
    expect(tally.cut).toBeGreaterThan(0);
    expect(tally.resumed).toBeGreaterThan(0);
    // One that is about to come back when the time is up says no goodbye.
    expect(tally.goodbyes + tally.rudeQuits).toBeGreaterThanOrEqual(8);
    // Only those who left without a goodbye are still kept a place, once the service has seen that they are gone.
    const present = async () =>
      (await service.operator.players()).players.filter(({ presence }) => presence === "here");
    await expect.poll(present, { timeout: 30_000 }).toEqual([]);
  });

  it("play on instances when told how to get there", async () => {
    const service = await startTestService();
    const aboard = join(ROOT, "packages/service/src/testing/plain-aboard.mjs");
    const args = ["--count", "4", "--as", "host,wander", "--seconds", "14", "--aboard", aboard];
    const ran = await runYh(["bots", ...args, "--json", "--url", service.url]);
    const tally = JSON.parse(ran.out);
    expect(tally).toMatchObject({ faults: {} });
    expect(tally.started).toBeGreaterThan(0);
    expect(tally.boarded).toBeGreaterThan(0);
    expect(tally.results).toBeGreaterThan(0);
  });

  it("refuse what is no behaviour and what is no way aboard", async () => {
    expect(await runYh(["bots", "--as", "wander,angry"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("there is no behaviour angry"),
    });
    const service = await startTestService();
    expect(await runYh(["bots", "--aboard", "nowhere.mjs", "--url", service.url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("expected a module that exports goAboard(pass)"),
    });
  });
});

/** Resolves once a watcher has its state: the service counts those who watch. */
async function untilWatched(service: Awaited<ReturnType<typeof startTestService>>): Promise<void> {
  while ((await service.operator.status()).watchers === 0) await new Promise((resolve) => setTimeout(resolve, 20));
}
