// Pages of a directory of 5,000 rooms, in microseconds each, and the same ones by SQLite.
import { directoryPage, Harbor, roomListing } from "@yellow-harbor/core";
import { loadRuntime, parseConfig } from "@yellow-harbor/service";
import Database from "better-sqlite3";

const ROOMS = 5_000;
const PAGES = 200;

const config = parseConfig(`
harbor: bench
players: { builds: [game-1] }
lobbies: { quayside: { title: Quayside, roomKinds: [crews] } }
roomKinds: { crews: { capacity: { max: 16, default: 8 }, levels: [brine-gate] } }
levels: { brine-gate: { title: Brine Gate, players: { min: 1, max: 16 }, pool: sluice } }
builds: { plain: { command: node, args: [] } }
pools: { sluice: { build: plain, ports: { from: 7700, to: 7739 } } }
`);
if (!config.ok) throw new Error(JSON.stringify(config.faults));

const { rulesOf } = await loadRuntime();
const harbor = new Harbor(rulesOf(config.config, [1, 2, 3, 4]));
let stamps = 0;
const run = (command: Parameters<Harbor["execute"]>[0]) => {
  stamps += 1;
  const entropy = [stamps, stamps >>> 7, 3, 4] as const;
  const { refused, reply } = harbor.execute(command, { at: 1_000_000 + stamps, entropy });
  if (refused) throw new Error(refused.detail);
  return reply as { player: { id: string } };
};
run({ do: "harbor.found" });
for (let n = 0; n < ROOMS; n++) {
  const connect = { do: "player.connect", name: `P ${n}`, build: "game-1", lobby: undefined, connection: n } as const;
  const player = run(connect).player.id;
  run({ do: "room.open", player, args: { capacity: 2 + (n % 15) } });
  run({ do: "room.change", player, args: { settings: { weather: n % 3 === 0 ? "fog" : "calm", n } } });
}

const filter = { open: true, freePlaces: 6, settings: { weather: "fog" } };

const sqlite = new Database(":memory:");
sqlite.exec(
  "CREATE TABLE rooms (id TEXT PRIMARY KEY, opened INTEGER, free INTEGER, open INTEGER, weather TEXT, listing TEXT); CREATE INDEX by_age ON rooms (opened, id)",
);
const insert = sqlite.prepare("INSERT INTO rooms VALUES (?, ?, ?, ?, ?, ?)");
for (const room of harbor.state.rooms.byId.values()) {
  const listing = roomListing(room);
  const free = listing.capacity - listing.members;
  insert.run(
    room.id,
    listing.openedAtMs,
    free,
    Number(listing.isOpen),
    String(listing.settings["weather"]),
    JSON.stringify(listing),
  );
}
const where = "open = 1 AND free >= ? AND weather = ?";
const page = sqlite.prepare(
  `SELECT listing FROM rooms WHERE ${where} AND (opened, id) < (?, ?) ORDER BY opened DESC, id DESC LIMIT 50`,
);
const count = sqlite.prepare(`SELECT count(*) FROM rooms WHERE ${where}`).pluck();

/** Pages one after the other from the newest on, and again. */
function ours(): void {
  let after: string | undefined;
  for (let n = 0; n < PAGES; n++) {
    after = directoryPage(harbor.state, "quayside", { filter, sort: "newest", limit: 50, after }).next;
  }
}

function bySqlite(): void {
  let [opened, id] = [Number.MAX_SAFE_INTEGER, ""];
  for (let n = 0; n < PAGES; n++) {
    const rows = page.all(6, "fog", opened, id) as { listing: string }[];
    count.get(6, "fog");
    const last = rows.map(({ listing }) => JSON.parse(listing) as ReturnType<typeof roomListing>).at(-1);
    [opened, id] = rows.length < 50 || last === undefined ? [Number.MAX_SAFE_INTEGER, ""] : [last.openedAtMs, last.id];
  }
}

process.on("message", ({ what }: { what: string }) => {
  const begin = performance.now();
  (what === "ours" ? ours : bySqlite)();
  process.send?.({ value: ((performance.now() - begin) * 1_000) / PAGES });
});
