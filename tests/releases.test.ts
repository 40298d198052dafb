import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";
import { inspectBackup, loadConfig, restoreBackup } from "@yellow-harbor/service";
import { afterEach, describe, expect, it } from "vitest";
import { testPorts } from "../packages/service/src/testing/test-ports.ts";
import { endAll, startTestService, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";

afterEach(endAll);

const FOLDER = join(ROOT, "tests/releases");
const EXAMPLE = join(ROOT, "examples/tidewrights");

/** Real files, each a copy of the data of a service of that version in the middle of play. */
describe.each(readdirSync(FOLDER))("the data file %s", (name) => {
  it("of a release is verified, read, looked back into and gone on with", async () => {
    const folder = temporaryFolder();
    const file = join(folder, "copy.sqlite");
    writeFileSync(file, gunzipSync(readFileSync(join(FOLDER, name))));
    const contents = await inspectBackup(file);
    expect(contents.events).toBeGreaterThan(100);
    const data = join(folder, "data");
    mkdirSync(data);
    await restoreBackup(file, data);

    const loaded = loadConfig(join(EXAMPLE, "harbor.yaml"));
    if (!loaded.ok) throw new Error(JSON.stringify(loaded.faults));
    const { config } = loaded;
    const from = testPorts();
    const pools = Object.fromEntries(
      Object.entries(config.pools).map(([pool, one]) => [pool, { ...one, ports: { from, to: from + 9 } }]),
    );
    const own = {
      ...config,
      pools,
      listen: { ...config.listen, port: 0 },
      log: { level: "silent" as const, areas: {} },
    };
    const service = await startTestService(own, { data, folder: EXAMPLE });

    const kinds = new Set<string>();
    const rooms: string[] = [];
    for (let after = 0; ; ) {
      const { events } = await service.operator.journal({ after, limit: 1_000 });
      for (const { kind, event } of events) {
        kinds.add(kind);
        if (kind === "room.opened") rooms.push(String(event.room));
      }
      const last = events.at(-1)?.seq;
      if (last === undefined || last === after) break;
      after = last;
    }
    for (const kind of [
      "room.opened",
      "room.result-set",
      "queue.ticket-opened",
      "instance.boarded",
      "travel.completed",
    ])
      expect(kinds).toContain(kind);
    for (const room of rooms) expect((await service.operator.history(room, {})).room.id).toBe(room);

    const player = await service.player("Ansel", { build: "tidewrights-0.3" });
    const { room } = await player.openRoom({ capacity: 2 });
    const again = await service.restart();
    expect((await again.operator.rooms()).rooms.map(({ id }) => id)).toContain(room.id);
  });
});
