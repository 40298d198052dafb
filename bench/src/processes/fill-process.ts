// Fills a data folder with a harbor in the middle of its work, as a service that was killed leaves it behind.
import { type Command, Harbor, type ReplyTo, SNAPSHOT_VERSION, writeEvent } from "@yellow-harbor/core";
import { type JournalRow, loadConfig, loadRuntime, openSqliteHarbor } from "@yellow-harbor/service";

/** Events after the newest snapshot: half of what lies between two, as it is at a random moment. */
const TAIL = 25_000;
const BATCH = 5_000;

interface Backfill {
  readonly config: string;
  readonly folder: string;
  readonly rooms: number;
  readonly membersEach: number;
}

async function fill({ config, folder, rooms, membersEach }: Backfill): Promise<{ events: number }> {
  const loaded = loadConfig(config);
  if (!loaded.ok) throw new Error("the benchmark's own configuration is wrong");
  const { rulesOf } = await loadRuntime();
  const kept = await openSqliteHarbor(folder);
  const harbor = new Harbor(rulesOf(loaded.config, [1, 2, 3, 4]));
  let rows: JournalRow[] = [];
  let [seq, keptSeq, stamps] = [0, 0, 0];
  const run = <C extends Command>(command: C): ReplyTo<C["do"]> => {
    stamps += 1;
    const stamp = { at: Date.now(), entropy: [stamps, (stamps * 2_654_435_761) >>> 0, 11, 13] as const };
    const { refused, reply } = harbor.execute(command, stamp, ({ event }, atMs) => {
      seq += 1;
      rows.push({ seq, atMs, ...writeEvent(event) });
    });
    if (refused) throw new Error(refused.detail);
    return reply;
  };
  const keep = async () => {
    for (let from = 0; from < rows.length; from += BATCH) {
      const batch = rows.slice(from, from + BATCH);
      await kept.eventLog.append({ rows: batch, instances: [] }, keptSeq);
      keptSeq += batch.length;
    }
    rows = [];
  };
  run({ do: "harbor.found" });
  const hosts: string[] = [];
  for (let n = 0; n < rooms; n++) {
    let room = "";
    for (let member = 0; member < membersEach; member++) {
      const entered = run({
        do: "player.connect",
        name: `Player ${n * membersEach + member}`,
        build: "bench-1",
        lobby: undefined,
        connection: 1,
      });
      const player = entered.player.id;
      if (member > 0) run({ do: "room.join", player, args: { room } });
      else {
        hosts.push(player);
        room = run({ do: "room.open", player, args: {} }).room.id;
      }
    }
  }
  await keep();
  await kept.snapshots.put({ seq, version: SNAPSHOT_VERSION, body: harbor.snapshot() }, TAIL);
  for (let n = 0; n < TAIL; n++) {
    const player = hosts[n % hosts.length] as string;
    run({ do: "board.set", player, args: { key: "stones.north", value: { placed: n, by: player } } });
  }
  await keep();
  await kept.close();
  return { events: seq };
}

process.on("message", async (backfill: Backfill) => process.send?.(await fill(backfill)));
