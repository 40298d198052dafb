import { copyFileSync, existsSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import type { OperatorClient } from "@yellow-harbor/client";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { chained, NOTHING_YET } from "../journal/chain.ts";
import type { AnyRow } from "../journal/packing.ts";
import { readSecret } from "../journal/read-secret.ts";
import { backupFolder, inspectBackup, restoreBackup } from "../serve.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const fast = testConfig("good", (config) => ({
  ...config,
  players: { ...config.players, framesPerSecond: 100_000 },
  journal: { snapshotEvery: 100, keepEvents: 1_000_000, keepBytes: 1_000_000_000 },
}));

const PASSPHRASE = "nine stones and a rope";

/** A backup as a client takes it. */
async function download(operator: OperatorClient, file: string, passphrase?: string): Promise<void> {
  const parts: Uint8Array[] = [];
  for await (const part of operator.backup(passphrase)) parts.push(part);
  writeFileSync(file, Buffer.concat(parts));
}

/** A backup of a service with one room on whose board a number is written. */
async function someBackup(): Promise<string> {
  const service = await startTestService(fast);
  const ansel = await service.player("Ansel");
  await ansel.openRoom();
  await ansel.board.set("stones", 7);
  const file = join(temporaryFolder(), "harbor-backup.sqlite");
  await download(service.operator, file);
  return file;
}

describe("a backup", () => {
  it("taken in the middle of writing is one moment: all that was acknowledged before, in order", async () => {
    const service = await startTestService(fast);
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    let written = 0;
    let isOver = false;
    const writing = (async () => {
      for (let n = 1; !isOver; n++) {
        await ansel.board.set("stones", n);
        written = n;
        // Writes go on without a break; they need not take a whole processor for it.
        if (written > 300) await wait(1);
      }
    })();
    await ansel.until(() => written >= 300);
    const folder = temporaryFolder();
    for (const name of ["first", "second"]) {
      const before = written;
      const file = join(folder, `${name}.sqlite`);
      await download(service.operator, file);
      const after = written;
      const contents = await inspectBackup(file);
      expect(contents).toMatchObject({ players: 1, rooms: 1 });
      const data = join(folder, name);
      expect(await restoreBackup(file, data)).toEqual(contents);
      const restored = await startTestService(fast, { data });
      const [kept] = (await restored.operator.room(room.id)).board.stones?.box ?? [];
      expect(kept).toBeGreaterThanOrEqual(before);
      expect(kept).toBeLessThanOrEqual(after + 1);
      await restored.stop();
    }
    isOver = true;
    await writing;
    // Nothing of the copying is left in the data folder.
    expect(readdirSync(service.data).filter((name) => name.startsWith("backup"))).toEqual([]);
  });

  it("of a folder can be taken beside the service that uses it, and is for its owner alone", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    await ansel.openRoom();
    const file = join(temporaryFolder(), "copy.sqlite");
    await backupFolder(service.data, file);
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(await inspectBackup(file)).toMatchObject({ players: 1, rooms: 1, first: { seq: 1 } });
    await expect(backupFolder(service.data, file)).rejects.toThrow("is there already");
    await expect(backupFolder(temporaryFolder(), `${file}2`)).rejects.toMatchObject({ code: "data-unusable" });
  });

  it("has no secret, nor anybody's session, in any byte of it", async () => {
    const service = await startTestService(fast);
    const secret = readSecret(service.data) ?? new Uint8Array();
    expect(secret.length).toBe(32);
    const { code } = await service.operator.logInLink();
    await service.operator.logIn({ code });
    const file = join(temporaryFolder(), "copy.sqlite");
    await download(service.operator, file);
    expect(readFileSync(file).includes(Buffer.from(secret))).toBe(false);
    expect(await inspectBackup(file)).toMatchObject({ hasSecret: false });
    const copy = new Database(file, { readonly: true });
    expect(copy.prepare("SELECT count(*) AS n FROM operator_sessions").get()).toEqual({ n: 0 });
    copy.close();
    // A service that starts from it makes a secret of its own: who had a token comes anew.
    const ansel = await service.player("Ansel");
    await service.stop();
    const data = temporaryFolder();
    await restoreBackup(file, join(data, "restored"));
    const restored = await startTestService(fast, { data: join(data, "restored") });
    await expect(restored.player("Ansel", { resume: ansel.resumeToken })).rejects.toMatchObject({
      code: "token-invalid",
    });
  });

  it("that is sealed opens with its passphrase alone, and is not there before all of it was", async () => {
    const service = await startTestService(fast);
    const file = join(temporaryFolder(), "copy.sealed");
    await download(service.operator, file, PASSPHRASE);
    const bytes = readFileSync(file);
    expect(bytes.includes("SQLite format")).toBe(false);
    expect(await inspectBackup(file, PASSPHRASE)).toMatchObject({ hasSecret: true });
    await expect(inspectBackup(file)).rejects.toMatchObject({ code: "passphrase-needed" });
    await expect(inspectBackup(file, "another passphrase")).rejects.toMatchObject({ code: "passphrase-wrong" });
    for (const at of [12, 40, 5_000, bytes.length - 1]) {
      const damaged = Buffer.from(bytes);
      damaged[at] = (damaged[at] ?? 0) ^ 1;
      writeFileSync(file, damaged);
      await expect(inspectBackup(file, PASSPHRASE), String(at)).rejects.toMatchObject({ code: "passphrase-wrong" });
    }
    writeFileSync(file, bytes.subarray(0, 20));
    await expect(inspectBackup(file, PASSPHRASE)).rejects.toMatchObject({ code: "passphrase-wrong" });
    expect(existsSync(`${file}.open`)).toBe(false);
  });

  it("lets players come back to a service that was restored from it, with the secret", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const file = join(temporaryFolder(), "copy.sqlite");
    await download(service.operator, file, PASSPHRASE);
    const back = new Promise((resolve) => ansel.on("resumed", resolve));
    await service.stop();
    const data = temporaryFolder();
    await restoreBackup(file, join(data, "restored"), PASSPHRASE);
    const config = testConfig("good", (one) => ({ ...one, listen: { ...one.listen, port: service.port } }));
    await startTestService(config, { data: join(data, "restored") });
    await back;
    expect(ansel.state.room).toMatchObject({ id: room.id, code: room.code });
  });
});

describe("a restore", () => {
  it("overwrites nothing, and needs the folder for itself", async () => {
    const file = await someBackup();
    const service = await startTestService();
    const before = readFileSync(join(service.data, "harbor.sqlite"));
    await expect(restoreBackup(file, service.data)).rejects.toMatchObject({ code: "data-locked" });
    await service.stop();
    await expect(restoreBackup(file, service.data)).rejects.toMatchObject({
      code: "data-unusable",
      message: expect.stringContaining("is there already and is not overwritten"),
    });
    expect(readFileSync(join(service.data, "harbor.sqlite")).length).toBeGreaterThanOrEqual(before.length);
  });

  it.each<[what: string, damage: (file: string) => void, why: RegExp]>([
    ["was cut short", (file) => writeFileSync(file, readFileSync(file).subarray(0, 30_000)), /malformed|disk image/],
    ["is no database", (file) => writeFileSync(file, "stones ".repeat(2_000)), /not a database/],
    ["lacks an event", (file) => inDatabase(file, "DELETE FROM journal WHERE seq = 3"), /events are missing/],
    [
      "lacks its beginning",
      (file) => inDatabase(file, "DELETE FROM snapshots; DELETE FROM journal WHERE seq < 3"),
      /begins at event 3, and no snapshot/,
    ],
    ["is of a newer version", (file) => inDatabase(file, "PRAGMA user_version = 99"), /newer version/],
    [
      "comes to a state that cannot be",
      (file) =>
        inDatabase(
          file,
          "DELETE FROM snapshots; UPDATE journal SET body = replace(body, '\"capacity\":', '\"capacity\":0,\"was\":') WHERE kind = 'room.opened'",
        ),
      /1 members and a capacity of 0/,
    ],
    [
      "has another event in the place of one",
      (file) => inDatabase(file, "UPDATE journal SET body = replace(body, 'stones', 'pebble')", "as it is"),
      /checksum differs/,
    ],
  ])("refuses a backup that %s, and leaves the folder empty", async (_what, damage, why) => {
    const file = join(temporaryFolder(), "damaged.sqlite");
    copyFileSync(await someBackup(), file);
    damage(file);
    const data = join(temporaryFolder(), "data");
    await expect(restoreBackup(file, data)).rejects.toMatchObject({
      code: "data-unusable",
      message: expect.stringMatching(why),
    });
    expect(existsSync(join(data, "harbor.sqlite"))).toBe(false);
  });
});

/** Changes a database as somebody would who knows how sums are made, unless they are to stay as they are. */
function inDatabase(file: string, sql: string, sums: "made anew" | "as it is" = "made anew"): void {
  const sqlite = new Database(file);
  sqlite.exec(sql);
  if (sums === "made anew") {
    const set = sqlite.prepare("UPDATE journal SET chain = ? WHERE seq = ?");
    let chain = NOTHING_YET;
    for (const row of sqlite
      .prepare("SELECT seq, at_ms AS atMs, kind, version, body FROM journal ORDER BY seq")
      .all()) {
      chain = chained(chain, [row as AnyRow]);
      set.run(chain, (row as AnyRow).seq);
    }
  }
  sqlite.close();
}
