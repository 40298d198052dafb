import { join } from "node:path";
import { OperatorClient } from "@yellow-harbor/client";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { DATABASE_FILE } from "../journal/files.ts";
import { SqliteStore } from "../journal/sqlite-store.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

describe("the audit log", () => {
  it("has who did what from where, on whom, why, with which result, before the answer is there", async () => {
    const service = await startTestService(
      testConfig("good", (one) => ({ ...one, operators: { ...one.operators, access: "key" } })),
    );
    const first = new OperatorClient({ url: service.url, token: service.operatorToken });
    const { key, secret } = await first.createKey({ name: "Night watch", role: "operate" });
    const watch = new OperatorClient({ url: service.url, token: secret });
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    await watch.closeRoom(room.id, "maintenance");
    await expect(watch.createKey({ name: "more", role: "administer" })).rejects.toMatchObject({
      problem: { code: "role-needed" },
    });
    await expect(watch.kick("p_000000000000", "x")).rejects.toMatchObject({ problem: { code: "player-unknown" } });
    await watch.rooms();
    const { entries } = await watch.audit();
    const actor = { by: "key", id: key.id, name: "Night watch", role: "operate" };
    expect(entries.map(({ seq: _, atMs: __, ...entry }) => entry)).toEqual(
      [
        { actor, from: "127.0.0.1", action: "kick", target: "p_000000000000", reason: "x", result: "player-unknown" },
        {
          actor: { by: "first-key", name: "first key", role: "administer" },
          from: "127.0.0.1",
          action: "createKey",
          target: "Night watch",
          result: "done",
        },
      ].toSpliced(1, 0, {
        actor,
        from: "127.0.0.1",
        action: "closeRoom",
        target: room.id,
        reason: "maintenance",
        result: "done",
      }),
    );
    expect(JSON.stringify(entries)).not.toContain(secret);
    expect(await watch.checkAudit()).toMatchObject({ entries: 3, head: expect.stringMatching(/^[0-9a-f]{64}$/) });
    expect((await watch.audit({ limit: 1 })).next).toBe(3);
    expect((await watch.audit({ name: "first key" })).entries).toHaveLength(1);
  });
});

describe("entries that are kept", () => {
  const entry = (n: number) => ({
    atMs: n * 1_000,
    actor: { by: "open" as const, name: "anybody here" },
    from: "127.0.0.1",
    action: `act-${n}`,
    result: "done",
  });

  /** A log of ten entries, and what becomes of it when somebody writes to the file. */
  function tenEntries() {
    const folder = temporaryFolder();
    const store = new SqliteStore(folder);
    for (let n = 1; n <= 10; n++) store.operators.addAudit(entry(n));
    return { store, file: new Database(join(folder, DATABASE_FILE)) };
  }

  it.each<[what: string, sql: string, fault: RegExp]>([
    ["one is removed", "DELETE FROM audit WHERE seq = 4", /entry 5 is not what was written/],
    ["the first is removed", "DELETE FROM audit WHERE seq = 1", /entry 2 is not what was written/],
    ["one is changed", "UPDATE audit SET entry = replace(entry, 'act-7', 'act-x') WHERE seq = 7", /entry 7/],
    ["the newest are removed", "DELETE FROM audit WHERE seq > 8", /the newest entries are missing/],
    ["all are removed", "DELETE FROM audit", /the newest entries are missing/],
  ])("show it when %s", (_what, sql, fault) => {
    const { store, file } = tenEntries();
    expect(store.operators.checkAudit().fault).toBeUndefined();
    file.exec(sql);
    file.close();
    expect(store.operators.checkAudit().fault).toMatch(fault);
    store.close();
  });

  it("are shortened at their old end alone, and still fit", () => {
    const { store, file } = tenEntries();
    file.close();
    const { operators } = store;
    const head = operators.checkAudit().head;
    expect(operators.trimAudit(5_000)).toBe(4);
    expect(operators.checkAudit()).toEqual({ entries: 6, firstSeq: 5, lastSeq: 10, head });
    expect(operators.trimAudit(20_000)).toBe(6);
    expect(operators.checkAudit()).toEqual({ entries: 0, head });
    operators.addAudit(entry(11));
    expect(operators.checkAudit()).toMatchObject({ entries: 1, firstSeq: 11 });
    expect(operators.checkAudit().fault).toBeUndefined();
    store.close();
  });
});
