import { afterEach, describe, expect, it } from "vitest";
import type { EventLog } from "../packages/service/src/journal/event-log.ts";
import type { Found } from "../packages/service/src/journal/kept-harbor.ts";
import type { Snapshots } from "../packages/service/src/journal/snapshots.ts";
import { openSqliteHarbor } from "../packages/service/src/journal/sqlite-harbor.ts";
import { SqliteStore } from "../packages/service/src/journal/sqlite-store.ts";
import { batch } from "../packages/service/src/testing/journal-batch.ts";
import { endAll, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
import { SimDisk } from "../trials/src/sim/sim-disk.ts";

/** One adapter: what it keeps outlives its openings. */
interface Adapter {
  readonly open: () => Promise<Found>;
  readonly snapshots: Snapshots;
}

const ends: (() => Promise<void>)[] = [];
afterEach(async () => {
  for (const end of ends.splice(0)) await end();
  await endAll();
});

async function sqlite(): Promise<Adapter> {
  const kept = await openSqliteHarbor(temporaryFolder());
  ends.push(() => kept.close());
  let isFirst = true;
  const open = async () => {
    if (!isFirst) return kept.reopen();
    isFirst = false;
    return kept;
  };
  return { open, snapshots: kept.snapshots };
}

async function simulated(): Promise<Adapter> {
  const disk = new SimDisk(() => undefined);
  /** The simulation says when a write is kept; here it is at once. */
  const atOnce = (found: Found): Found => {
    const append: EventLog["append"] = (...args) => {
      const appended = found.eventLog.append(...args);
      disk.end("kept");
      return appended;
    };
    return { ...found, eventLog: { ...found.eventLog, append } };
  };
  return { open: async () => atOnce(disk.open(() => true)), snapshots: disk.snapshotsFor(() => true) };
}

const adapters = { sqlite, simulated };

describe.each(Object.entries(adapters))("an event log, kept by the adapter %s", (_name, make) => {
  const seqs = async ({ eventLog }: Pick<Found, "eventLog">) => (await eventLog.read(1, 100)).map(({ seq }) => seq);

  it("begins empty, and gives back what was appended, in order", async () => {
    const found = await (await make()).open();
    expect([found.lastSeq, found.lastAtMs, await found.snapshot]).toEqual([0, 0, undefined]);
    await found.eventLog.append(batch(1, 3), 0);
    await found.eventLog.append(batch(4, 2), 3);
    expect(await found.eventLog.read(2, 3)).toEqual(
      [...batch(1, 3).rows, ...batch(4, 2).rows].slice(1, 4).map((row) => expect.objectContaining(row)),
    );
  });

  it("rejects what does not follow its last event as fenced, and keeps nothing of it", async () => {
    const found = await (await make()).open();
    await found.eventLog.append(batch(1), 0);
    await expect(found.eventLog.append(batch(7), 6)).rejects.toMatchObject({ code: "fenced" });
    await expect(found.eventLog.append(batch(1), 0)).rejects.toMatchObject({ code: "fenced" });
    expect(await seqs(found)).toEqual([1, 2, 3]);
  });

  it("is opened with a higher epoch each time, and knows where it ended", async () => {
    const adapter = await make();
    const first = await adapter.open();
    await first.eventLog.append(batch(1), 0);
    const second = await adapter.open();
    expect(second.eventLog.epoch).toBeGreaterThan(first.eventLog.epoch);
    expect([second.lastSeq, second.lastAtMs]).toEqual([3, batch(1).rows.at(-1)?.atMs]);
  });

  it("takes nothing from whoever opened it before the last", async () => {
    const adapter = await make();
    const former = await adapter.open();
    await former.eventLog.append(batch(1), 0);
    const owner = await adapter.open();
    await expect(former.eventLog.append(batch(4), 3)).rejects.toMatchObject({ code: "fenced" });
    await owner.eventLog.append(batch(4), 3);
    await expect(former.eventLog.append(batch(7), 6)).rejects.toMatchObject({ code: "fenced" });
    expect(await seqs(owner)).toEqual([1, 2, 3, 4, 5, 6]);
  });

  it("lets an append of nothing prove that it is still the owner's", async () => {
    const adapter = await make();
    const former = await adapter.open();
    const nothing = { rows: [], instances: [] };
    await former.eventLog.append(nothing, 0);
    const owner = await adapter.open();
    await expect(former.eventLog.append(nothing, 0)).rejects.toMatchObject({ code: "fenced" });
    await owner.eventLog.append(nothing, 0);
    await owner.eventLog.append(batch(1), 0);
  });
});

describe.each(Object.entries(adapters))("snapshots, kept by the adapter %s", (_name, make) => {
  it("are found by whoever opens the log next, the newest of them", async () => {
    const adapter = await make();
    const { eventLog } = await adapter.open();
    await eventLog.append(batch(1, 60), 0);
    for (const seq of [20, 40, 60]) await adapter.snapshots.put({ seq, version: 1, body: `state ${seq}` }, 10);
    const newest = { seq: 60, version: 1, body: "state 60" };
    expect(await adapter.snapshots.newest()).toEqual(newest);
    expect(await (await adapter.open()).snapshot).toEqual(newest);
  });
});

it("a file that two have open is appended to by the one who opened it last, also between processes that share no lock", () => {
  const folder = temporaryFolder();
  const [former, owner] = [new SqliteStore(folder), new SqliteStore(folder)];
  const nothing = {
    seqs: new Float64Array(),
    atMs: new Float64Array(),
    kinds: "",
    bodies: "",
    instances: "",
    webhookEvents: "",
  };
  expect(() => former.append(nothing, { epoch: former.epoch, expectedSeq: 0 })).toThrow(/opened anew \(epoch 2/);
  owner.append(nothing, { epoch: owner.epoch, expectedSeq: 0 });
  for (const store of [former, owner]) store.close();
});
