import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";

import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { batch } from "../testing/journal-batch.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";
import { openSqliteHarbor } from "./sqlite-harbor.ts";

afterEach(endAll);

const keep = (events: number, bytes = 1_000_000_000) => ({ events, bytes });

describe("the journal", () => {
  it("gives back what was appended, in order, after it was closed and opened again", async () => {
    const folder = temporaryFolder();
    const first = await openSqliteHarbor(folder);
    await first.eventLog.append(batch(1), 0);
    await first.eventLog.append(batch(4), 3);
    await first.close();
    const again = await openSqliteHarbor(folder);
    expect(again.lastSeq).toBe(6);
    expect(again.secret).toEqual(first.secret);
    expect((await again.eventLog.read(3, 2)).map(({ seq, body }) => [seq, body])).toEqual([
      [3, '{"n":3}'],
      [4, '{"n":4}'],
    ]);
    await again.close();
  });

  it("of a harbor that was closed takes nothing more, whichever harbor was opened since", async () => {
    const first = await openSqliteHarbor(temporaryFolder());
    await first.eventLog.append(batch(1), 0);
    await first.close();
    const other = await openSqliteHarbor(temporaryFolder());
    await expect(first.eventLog.append(batch(4), 3)).rejects.toMatchObject({ code: "away" });
    await expect(first.eventLog.append(batch(1), 0)).rejects.toThrow("the harbor was closed");
    await expect(first.snapshots.newest()).rejects.toThrow("the harbor was closed");
    expect(await other.eventLog.read(1, 10)).toEqual([]);
    await other.close();
  });

  it("keeps the version of each event's form", async () => {
    const kept = await openSqliteHarbor(temporaryFolder());
    const { rows, instances } = batch(1);
    await kept.eventLog.append({ rows: rows.map((row, n) => ({ ...row, version: 1 + n })), instances }, 0);
    expect((await kept.eventLog.read(1, 10)).map(({ kind, version }) => [kind, version])).toEqual([
      ["room.ready-set", 1],
      ["room.ready-set", 2],
      ["room.ready-set", 3],
    ]);
    expect(await kept.history.check()).toBeUndefined();
    await kept.close();
  });

  it("keeps every row of batches of any size", async () => {
    const kept = await openSqliteHarbor(temporaryFolder());
    let seq = 0;
    for (const count of [1, 24, 25, 26, 99, 100, 250]) {
      await kept.eventLog.append(batch(seq + 1, count), seq);
      seq += count;
    }
    const rows = await kept.eventLog.read(1, 1_000);
    expect(rows.map((row) => [row.seq, row.atMs >= 1000, row.kind, row.version, row.body])).toEqual(
      Array.from({ length: seq }, (_, n) => [n + 1, true, "room.ready-set", 1, `{"n":${n + 1}}`]),
    );
    await kept.close();
  });

  it("refuses a batch that does not follow the last event, and writes nothing of it", async () => {
    const kept = await openSqliteHarbor(temporaryFolder());
    await kept.eventLog.append(batch(1), 0);
    await expect(kept.eventLog.append(batch(7), 6)).rejects.toThrow("the journal is at event 3, not at 6");
    expect(await kept.eventLog.read(1, 100)).toHaveLength(3);
    await kept.close();
  });

  it("keeps the newest snapshot, and of older ones enough to have one near every event", async () => {
    const kept = await openSqliteHarbor(temporaryFolder());
    for (let seq = 1; seq <= 40; seq++) await kept.snapshots.put({ seq, version: 1, body: `state ${seq}` }, 10);
    expect(await kept.snapshots.newest()).toEqual({ seq: 40, version: 1, body: "state 40" });
    await kept.close();
  });

  it("is trimmed to what a snapshot stands for, a part at a time, and goes on after it", async () => {
    const folder = temporaryFolder();
    const kept = await openSqliteHarbor(folder);
    await kept.eventLog.append(batch(1, 100), 0);
    for (const seq of [30, 60, 90]) await kept.snapshots.put({ seq, version: 6, body: `state ${seq}` }, 10);
    // No snapshot of this version is old enough, or none at all.
    expect(await kept.eventLog.trim(keep(80), 6, 1_000)).toBe(0);
    expect(await kept.eventLog.trim(keep(10), 7, 1_000)).toBe(0);
    const removed = [
      await kept.eventLog.trim(keep(40), 6, 25),
      await kept.eventLog.trim(keep(40), 6, 25),
      await kept.eventLog.trim(keep(40), 6, 25),
    ];
    expect([...removed, await kept.eventLog.trim(keep(40), 6, 25)]).toEqual([25, 25, 10, 0]);
    expect((await kept.eventLog.read(1, 1_000)).map(({ seq }) => seq)).toEqual(
      Array.from({ length: 40 }, (_, n) => n + 61),
    );
    await kept.eventLog.append(batch(101), 100);
    await kept.close();
    const again = await openSqliteHarbor(folder);
    expect(again.lastSeq).toBe(103);
    expect((await again.snapshot)?.seq).toBe(90);
    await again.close();
  });

  it("is trimmed by its bytes as well, and never beyond its newest snapshot", async () => {
    const kept = await openSqliteHarbor(temporaryFolder());
    await kept.eventLog.append(batch(1, 2_000), 0);
    await kept.snapshots.put({ seq: 1_500, version: 6, body: "state" }, 10);
    expect(await kept.eventLog.trim(keep(1_000_000), 6, 5_000)).toBe(0);
    expect(await kept.eventLog.trim(keep(1_000_000, 4_096), 6, 5_000)).toBe(1_500);
    expect(await kept.eventLog.trim(keep(1_000_000, 4_096), 6, 5_000)).toBe(0);
    expect((await kept.eventLog.read(1, 1))[0]?.seq).toBe(1_501);
    await kept.close();
  });

  it("keeps a service's file from growing for ever, and the service can still start from it", async () => {
    const config = testConfig("good", (config) => ({
      ...config,
      players: { ...config.players, framesPerSecond: 100_000 },
      journal: { snapshotEvery: 200, keepEvents: 1_000, keepBytes: 1_000_000_000 },
    }));
    const service = await startTestService(config);
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    for (let n = 0; n < 3_000; n += 40) {
      await Promise.all(Array.from({ length: 40 }, (_, more) => ansel.board.set(`stones.${(n + more) % 8}`, n + more)));
    }
    await service.stop();
    const sqlite = new Database(join(service.data, "harbor.sqlite"), { readonly: true });
    const { first, count } = sqlite.prepare("SELECT min(seq) AS first, count(*) AS count FROM journal").get() as {
      first: number;
      count: number;
    };
    sqlite.close();
    expect(first).toBeGreaterThan(1_500);
    expect(count).toBeLessThan(1_300);
    const again = await startTestService(config, { data: service.data });
    const found = await again.operator.room(room.id);
    expect(found.board["stones.7"]?.box).toEqual([2_999]);
  });
});

describe("a data folder that cannot be used", () => {
  it("is refused while another service has it", async () => {
    const service = await startTestService();
    await expect(startTestService(testConfig(), { data: service.data })).rejects.toMatchObject({ code: "data-locked" });
  });

  it.each([
    [99, "newer version (schema 99"],
    [2, "written before version 0.2"],
  ])(
    "is refused when it was written by a version that is not this one's (%i), and left as it is",
    async (schema, why) => {
      const service = await startTestService();
      await service.stop();
      const file = join(service.data, "harbor.sqlite");
      const sqlite = new Database(file);
      sqlite.pragma(`user_version = ${schema}`);
      sqlite.close();
      await expect(startTestService(testConfig(), { data: service.data })).rejects.toMatchObject({
        code: "data-unusable",
        message: expect.stringContaining(why),
      });
      const after = new Database(file, { readonly: true });
      expect(after.pragma("user_version", { simple: true })).toBe(schema);
      after.close();
    },
  );

  it("is refused when the file is damaged", async () => {
    const data = temporaryFolder();
    mkdirSync(data, { recursive: true });
    writeFileSync(join(data, "harbor.sqlite"), "this is no database, and never was one ".repeat(100));
    await expect(startTestService(testConfig(), { data })).rejects.toMatchObject({ code: "data-unusable" });
  });

  it("is refused when the journal has a gap", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    await ansel.openRoom();
    await service.stop();
    const sqlite = new Database(join(service.data, "harbor.sqlite"));
    sqlite.exec("DELETE FROM snapshots; DELETE FROM journal WHERE seq = 2");
    sqlite.close();
    await expect(startTestService(testConfig(), { data: service.data })).rejects.toMatchObject({
      code: "data-unusable",
      message: expect.stringContaining("event 2 is missing"),
    });
  });
});
