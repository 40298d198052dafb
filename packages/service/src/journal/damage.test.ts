import { chmodSync, copyFileSync, existsSync, mkdirSync, readdirSync, rmSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it, vi } from "vitest";
import { batch } from "../testing/journal-batch.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";
import { openSqliteHarbor } from "./sqlite-harbor.ts";

afterEach(endAll);

/** A folder as a killed service leaves it: the database, and what was not yet moved into it from the write-ahead log. */
async function killedFolder(): Promise<string> {
  const folder = temporaryFolder();
  const kept = await openSqliteHarbor(folder);
  for (let n = 0; n < 10; n++) await kept.eventLog.append(batch(1 + 3 * n), 3 * n);
  await kept.snapshots.put({ seq: 15, version: 1, body: "the state" }, 1);
  const copy = temporaryFolder();
  for (const name of readdirSync(folder))
    if (!name.startsWith("lock")) copyFileSync(join(folder, name), join(copy, name));
  await kept.close();
  return copy;
}

function inDatabase(folder: string, sql: string): void {
  const sqlite = new Database(join(folder, "harbor.sqlite"));
  sqlite.exec(sql);
  sqlite.close();
}

/** All of the journal, read the way a start does. */
async function readAll(folder: string): Promise<number> {
  const kept = await openSqliteHarbor(folder);
  try {
    await kept.snapshot;
    let count = 0;
    for (let rows = await kept.eventLog.read(1, 4); rows.length > 0; rows = await kept.eventLog.read(count + 1, 4))
      count += rows.length;
    return count;
  } finally {
    await kept.close();
  }
}

describe("a data folder that was killed", () => {
  it("is read whole", async () => {
    expect(await readAll(await killedFolder())).toBe(30);
  });
});

describe("a data folder that was changed behind the service's back", () => {
  it.each<[what: string, change: (folder: string) => void, why: RegExp]>([
    [
      "lost its write-ahead log",
      (folder) => rmSync(join(folder, "harbor.sqlite-wal")),
      /is empty, and event 30 had been/,
    ],
    [
      "had its write-ahead log emptied",
      (folder) => writeFileSync(join(folder, "harbor.sqlite-wal"), ""),
      /is empty, and event 30 had been written: its end is lost/,
    ],
    [
      "lost its last event",
      (folder) => inDatabase(folder, "DELETE FROM journal WHERE seq = 30"),
      /ends at event 29, and event 30 had been written/,
    ],
    ["lost its database", (folder) => rmSync(join(folder, "harbor.sqlite")), /event 30 had been written/],
    [
      "has another body in one event",
      (folder) => inDatabase(folder, `UPDATE journal SET body = '{"n":999}' WHERE seq = 8`),
      /the events 7 to 9 are not those that were written: their checksum differs; restore a backup/,
    ],
    [
      "has another kind in one event",
      (folder) => inDatabase(folder, "UPDATE journal SET kind = 'room.started' WHERE seq = 1"),
      /the events 1 to 3 are not those/,
    ],
    [
      "has another time in the last event",
      (folder) => inDatabase(folder, "UPDATE journal SET at_ms = 5 WHERE seq = 30"),
      /the events 28 to 30 are not those/,
    ],
    [
      "lost an event in its middle",
      (folder) => inDatabase(folder, "DELETE FROM journal WHERE seq = 14"),
      /event 14 is missing/,
    ],
    [
      "lost its last sum",
      (folder) => inDatabase(folder, "UPDATE journal SET chain = NULL WHERE seq = 30"),
      /Event 30 is not the one that had been written/,
    ],
    [
      "has another snapshot",
      (folder) => inDatabase(folder, "UPDATE snapshots SET body = 'another state'"),
      /the snapshot of event 15 is not what was written; restore a backup/,
    ],
    [
      "is that of another journal of the same length",
      (folder) => inDatabase(folder, "UPDATE journal SET chain = x'00' WHERE seq = 30"),
      /this is the journal of another folder, or it was changed/,
    ],
  ])("is not gone on with when it %s", async (_what, change, why) => {
    const folder = await killedFolder();
    change(folder);
    await expect(readAll(folder)).rejects.toThrow(why);
  });

  it("goes on with what is there when whoever runs it says so", async () => {
    const folder = await killedFolder();
    inDatabase(folder, "DELETE FROM journal WHERE seq > 27");
    rmSync(join(folder, "harbor.head"));
    expect(await readAll(folder)).toBe(27);
  });
});

describe("a past that no start reads", () => {
  it("is held against its sums beside the service, which goes on and says what is wrong", async () => {
    const journal = { snapshotEvery: 1, keepEvents: 1_000, keepBytes: 1_000_000_000 };
    const service = await startTestService({ ...testConfig(), journal });
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    expect((await service.operator.status()).journal.fault).toBeUndefined();
    await service.stop();
    // The stop has made a snapshot of all of it, so no start reads what was before.
    inDatabase(
      service.data,
      "UPDATE journal SET body = replace(body, 'Ansel', 'Nobody') WHERE kind = 'player.connected'",
    );
    const after = await startTestService(testConfig(), { data: service.data });
    // At once: nobody comes back, and the room is closed before long.
    expect(await after.operator.room(room.id)).toMatchObject({
      id: room.id,
      members: { [ansel.id]: { name: "Ansel" } },
    });
    await vi.waitFor(
      async () =>
        expect((await after.operator.status()).journal.fault).toMatch(
          /are not those that were written: their checksum/,
        ),
      { timeout: 30_000 },
    );
    expect((await after.operator.status()).lobbies).toHaveLength(1);
  });

  it("does not hold up a stop", async () => {
    const folder = await killedFolder();
    const kept = await openSqliteHarbor(folder);
    const checking = kept.history.check().then(
      (fault) => fault,
      () => "ended",
    );
    await kept.close();
    expect([undefined, "ended"]).toContain(await checking);
    await expect(kept.history.check()).rejects.toThrow("the journal is closed");
  });
});

describe("a data folder in use", () => {
  it("is nobody else's, also when its lock was removed", async () => {
    const service = await startTestService();
    rmSync(join(service.data, "lock.sqlite"));
    await expect(startTestService(testConfig(), { data: service.data })).rejects.toMatchObject({ code: "data-locked" });
    const ansel = await service.player("Ansel");
    await expect(ansel.openRoom()).resolves.toBeDefined();
  });
});

describe("what a data folder holds", () => {
  it("is for its owner alone, also where the folder was there before, and backups that were cut off are gone", async () => {
    const folder = join(temporaryFolder(), "data");
    mkdirSync(folder, { mode: 0o755 });
    chmodSync(folder, 0o755);
    writeFileSync(join(folder, "backup-0123456789ab.sqlite"), "half a copy");
    const service = await startTestService(testConfig(), { data: folder });
    const ansel = await service.player("Ansel");
    await ansel.openRoom();
    expect(statSync(folder).mode & 0o777).toBe(0o700);
    const files = readdirSync(folder).filter((name) => statSync(join(folder, name)).isFile());
    expect(files).toEqual(expect.arrayContaining(["harbor.sqlite", "harbor.sqlite-wal", "lock.sqlite", "harbor.head"]));
    expect(files.filter((name) => (statSync(join(folder, name)).mode & 0o077) !== 0)).toEqual([]);
    expect(existsSync(join(folder, "backup-0123456789ab.sqlite"))).toBe(false);
  });
});
