import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";
import type { JournalBatch } from "./journal.ts";
import { openSqliteJournal } from "./sqlite-journal.ts";

afterEach(endAll);

const batch = (fromSeq: number, count = 3): JournalBatch => ({
  rows: Array.from({ length: count }, (_, n) => ({
    seq: fromSeq + n,
    atMs: 1000 + n,
    kind: "room.ready-set" as const,
    body: `{"n":${fromSeq + n}}`,
  })),
  instances: [],
});

describe("the journal", () => {
  it("gives back what was appended, in order, after it was closed and opened again", async () => {
    const folder = temporaryFolder();
    const first = await openSqliteJournal(folder);
    await first.journal.append(batch(1), 0);
    await first.journal.append(batch(4), 3);
    await first.journal.close();
    const again = await openSqliteJournal(folder);
    expect(again.lastSeq).toBe(6);
    expect(again.secret).toEqual(first.secret);
    expect((await again.journal.read(3, 2)).map(({ seq, body }) => [seq, body])).toEqual([
      [3, '{"n":3}'],
      [4, '{"n":4}'],
    ]);
    await again.journal.close();
  });

  it("keeps every row of batches of any size", async () => {
    const { journal } = await openSqliteJournal(temporaryFolder());
    let seq = 0;
    for (const count of [1, 24, 25, 26, 99, 100, 250]) {
      await journal.append(batch(seq + 1, count), seq);
      seq += count;
    }
    const rows = await journal.read(1, 1_000);
    expect(rows.map((row) => [row.seq, row.atMs >= 1000, row.kind, row.body])).toEqual(
      Array.from({ length: seq }, (_, n) => [n + 1, true, "room.ready-set", `{"n":${n + 1}}`]),
    );
    await journal.close();
  });

  it("refuses a batch that does not follow the last event, and writes nothing of it", async () => {
    const { journal } = await openSqliteJournal(temporaryFolder());
    await journal.append(batch(1), 0);
    await expect(journal.append(batch(7), 6)).rejects.toThrow("the journal is at event 3, not at 6");
    expect(await journal.read(1, 100)).toHaveLength(3);
    await journal.close();
  });

  it("keeps the newest snapshots", async () => {
    const { journal } = await openSqliteJournal(temporaryFolder());
    for (const seq of [1, 2, 3]) await journal.writeSnapshot({ seq, version: 1, body: `state ${seq}` });
    expect(await journal.newestSnapshot()).toEqual({ seq: 3, version: 1, body: "state 3" });
    await journal.close();
  });
});

describe("a data folder that cannot be used", () => {
  it("is refused while another service has it", async () => {
    const service = await startTestService();
    await expect(startTestService(testConfig(), { data: service.data })).rejects.toMatchObject({ code: "data-locked" });
  });

  it("is refused when it was written by a newer version, and left as it is", async () => {
    const service = await startTestService();
    await service.stop();
    const file = join(service.data, "harbor.sqlite");
    const sqlite = new Database(file);
    sqlite.pragma("user_version = 99");
    sqlite.close();
    await expect(startTestService(testConfig(), { data: service.data })).rejects.toMatchObject({
      code: "data-unusable",
      message: expect.stringContaining("newer version (schema 99"),
    });
    const after = new Database(file, { readonly: true });
    expect(after.pragma("user_version", { simple: true })).toBe(99);
    after.close();
  });

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

describe("a service whose journal fails", () => {
  it("answers nothing that is not durable, takes no more, and is not healthy", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    // From now on every append is refused: somebody else has written to the journal.
    const sqlite = new Database(join(service.data, "harbor.sqlite"));
    sqlite.exec(
      "CREATE TRIGGER full BEFORE INSERT ON journal BEGIN SELECT RAISE(FAIL, 'database or disk is full'); END",
    );
    sqlite.close();
    await expect(ansel.openRoom()).rejects.toMatchObject({ code: "journal-unavailable" });
    await expect(ansel.listRooms()).rejects.toMatchObject({ code: "journal-unavailable" });
    expect((await fetch(`${service.url}/healthz`)).status).toBe(503);
    expect((await fetch(`${service.url}/readyz`)).status).toBe(503);
    expect(ansel.picture.room).toBeUndefined();
  });
});
