import { existsSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { momentOf } from "../packages/cli/src/commands/replay.ts";
import { endAll, startTestService, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

/** A service with one room of Ansel's, on whose board something is written. */
async function scene() {
  const service = await startTestService();
  const ansel = await service.player("Ansel");
  const { room } = await ansel.openRoom();
  await ansel.board.set("stones", 3);
  return { service, ansel, room, url: ["--url", service.url] };
}

describe("yh replay", () => {
  it("tells how a room came to be as it is, and steps back from there", async () => {
    const { room, url, ansel } = await scene();
    const now = await runYh(["replay", room.code, ...url]);
    expect(now.code).toBe(0);
    expect(now.out).toContain(`Ansel sets stones on the board of room ${room.code}.`);
    expect(now.out).toMatch(/After event \d+, \d{4}-/);
    const back = /back: yh replay \S+ --at (\d+)/.exec(now.err)?.[1] ?? "none";
    const before = await runYh(["replay", room.id, "--at", back, "--json", ...url]);
    expect(JSON.parse(before.out)).toMatchObject({ closed: false, room: { id: room.id, board: {} } });
    await ansel.leaveRoom();
    expect((await runYh(["replay", room.code, ...url])).out).toMatch(/Event \d+ closed the room\./);
    expect(await runYh(["replay", "ZZZZZ", ...url])).toMatchObject({ code: 3 });
    expect(await runYh(["replay", room.code, "--at", "noon", ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("--at noon is no moment"),
    });
  });

  it("takes numbers, times, and how long ago", () => {
    expect(momentOf("17", 0)).toEqual({ seq: 17 });
    expect(momentOf("-90s", 100_000)).toEqual({ atMs: 10_000 });
    expect(momentOf("-2h", 7_200_000)).toEqual({ atMs: 0 });
    expect(momentOf("2031-05-01T20:15:00Z", 0)).toEqual({ atMs: Date.UTC(2031, 4, 1, 20, 15) });
    for (const typed of ["0", "-5", "5m", "yesterday", "2031-99-01", ""]) expect(() => momentOf(typed, 0)).toThrow();
  });
});

describe("yh player history", () => {
  it("tells what somebody did, what happened to it, and what it was refused, page by page", async () => {
    const { room, url, ansel } = await scene();
    await ansel.start().catch(() => undefined);
    const told = await runYh(["player", "history", "Ansel", ...url]);
    expect(told.code).toBe(0);
    expect(told.out).toContain(`Ansel opens room ${room.code}`);
    expect(told.out).toMatch(/Refused lately\n\d+ s ago {2}room\.start: .*\(start-not-possible\)/);
    const last = await runYh(["player", "history", ansel.id, "--limit", "1", ...url]);
    const [, before = ""] = /before that: yh player history \S+ --before (\d+)/.exec(last.err) ?? [];
    const older = await runYh(["player", "history", ansel.id, "--before", before, "--json", ...url]);
    const { story } = JSON.parse(older.out) as { story: { seq: number }[] };
    expect(story.length).toBeGreaterThan(0);
    expect(story.every(({ seq }) => seq < Number(before))).toBe(true);
    expect(await runYh(["player", "history", "p_000000000000", ...url])).toMatchObject({ code: 3 });
  });
});

describe("yh backup and restore", () => {
  it("copy a running service, look through the copy, and put it back without overwriting anything", async () => {
    const { service, url } = await scene();
    const file = join(temporaryFolder(), "monday.sqlite");
    const backup = await runYh(["backup", file, ...url]);
    expect(backup).toMatchObject({ code: 0, out: expect.stringContaining("at their end 1 player, 1 room") });
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(await runYh(["backup", file, ...url])).toMatchObject({ code: 2 });
    expect(JSON.parse((await runYh(["restore", file, "--check", "--json"])).out)).toMatchObject({ ok: true, rooms: 1 });
    const folder = join(temporaryFolder(), "again");
    expect(await runYh(["restore", file, "--data", folder])).toMatchObject({ code: 0 });
    expect(await runYh(["restore", file, "--data", folder])).toMatchObject({
      code: 6,
      err: expect.stringContaining("is not overwritten"),
    });
    const beside = join(temporaryFolder(), "beside.sqlite");
    expect(await runYh(["backup", beside, "--data", service.data])).toMatchObject({ code: 0 });
    // Sealed, it holds the secret too, and opens with its passphrase alone.
    const words = join(temporaryFolder(), "passphrase");
    writeFileSync(words, "nine stones and a rope\n");
    const sealed = [join(temporaryFolder(), "sealed"), "--passphrase-file", words];
    expect(await runYh(["backup", ...sealed, ...url])).toMatchObject({
      code: 0,
      out: expect.stringMatching(/has the harbor's secret/),
    });
    expect(await runYh(["restore", ...sealed, "--check"])).toMatchObject({ code: 0 });
    expect(await runYh(["restore", sealed[0] ?? "", "--check"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("--passphrase-file"),
    });
    writeFileSync(words, "short\n");
    expect(await runYh(["restore", ...sealed, "--check"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("12 or more"),
    });
    writeFileSync(beside, "stones");
    expect(await runYh(["restore", beside, "--check"])).toMatchObject({ code: 6 });
  });

  it("leaves nothing behind when the service does not answer", async () => {
    const file = join(temporaryFolder(), "none.sqlite");
    expect(await runYh(["backup", file, "--url", "http://127.0.0.1:1"])).toMatchObject({ code: 6 });
    expect([existsSync(file), existsSync(`${file}.part`)]).toEqual([false, false]);
  });
});
