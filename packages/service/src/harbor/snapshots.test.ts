import type { Harbor } from "@yellow-harbor/core";
import pino from "pino";
import { describe, expect, it } from "vitest";
import type { Journal } from "../journal/journal.ts";
import { SnapshotKeeper } from "./snapshots.ts";

const log = pino({ level: "silent" });
const harborOf = (length: number) => ({ snapshot: () => "x".repeat(length) }) as unknown as Harbor;
const journalThat = (writeSnapshot: () => Promise<void>) =>
  ({ writeSnapshot, trim: async () => 0 }) as unknown as Journal;

describe("snapshots", () => {
  it("are due each so many events, and less often for a large state", () => {
    const keeper = new SnapshotKeeper(
      journalThat(async () => undefined),
      { every: 100, keepEvents: 1_000 },
      0,
      log,
    );
    expect(keeper.takeIfDue(harborOf(10), 99)).toBeUndefined();
    expect(keeper.takeIfDue(harborOf(128_000), 100)).toMatchObject({ seq: 100 });
    // One event for each 128 characters of the last one: a thousand.
    expect(keeper.takeIfDue(harborOf(10), 1_099)).toBeUndefined();
    expect(keeper.takeIfDue(harborOf(10), 1_100)).toMatchObject({ seq: 1_100 });
    expect(keeper.takeIfDue(harborOf(10), 1_200)).toMatchObject({ seq: 1_200 });
  });

  it("that cannot be written stop nothing: the journal itself is whole", async () => {
    const full = journalThat(() => Promise.reject(new Error("disk full")));
    const keeper = new SnapshotKeeper(full, { every: 100, keepEvents: 1_000 }, 0, log);
    await expect(keeper.keep(keeper.take(harborOf(10), 100))).resolves.toBeUndefined();
  });
});
