import pino from "pino";
import { describe, expect, it } from "vitest";
import type { Snapshot } from "../journal/snapshots.ts";
import { noMeter } from "./meter.ts";
import { SnapshotKeeper, type SnapshotPorts } from "./snapshots.ts";

const watched = { log: pino({ level: "silent" }), meter: noMeter };

/** A journal whose snapshots are so long, and what it was given to keep. */
function journalOf(length: number, write: () => Promise<void> = async () => undefined) {
  const kept: number[] = [];
  const ports: SnapshotPorts = {
    history: { snapshotAt: async (seq): Promise<Snapshot> => ({ seq, version: 1, body: "x".repeat(length) }) },
    snapshots: {
      put: async ({ seq }) => {
        await write();
        kept.push(seq);
      },
    },
    eventLog: { trim: async () => 0 },
  };
  const keeper = new SnapshotKeeper(ports, { every: 100, keepEvents: 1_000, keepBytes: 1_000_000_000 }, 0, watched);
  return { keeper, kept };
}

describe("snapshots", () => {
  it("are due each so many events, and less often for a large state", async () => {
    const { keeper, kept } = journalOf(128_000);
    const consider = async (seq: number) => {
      keeper.consider(seq);
      // Whatever was begun is over when the one after it is.
      await keeper.make(0);
    };
    await consider(99);
    expect(kept).toEqual([]);
    await consider(100);
    // One event for each 128 characters of the last one: a thousand.
    await consider(1_099);
    expect(kept).toEqual([100]);
    await consider(1_100);
    expect(kept).toEqual([100, 1_100]);
  });

  it("are made one after the other, and the last one before the service stops", async () => {
    const { keeper, kept } = journalOf(10);
    keeper.consider(100);
    await keeper.make(150);
    expect(kept).toEqual([100, 150]);
    await keeper.make(150);
    expect(kept).toEqual([100, 150]);
  });

  it("that cannot be written stop nothing: the journal itself is whole", async () => {
    const { keeper, kept } = journalOf(10, () => Promise.reject(new Error("disk full")));
    await expect(keeper.make(100)).resolves.toBeUndefined();
    expect(kept).toEqual([]);
  });
});
