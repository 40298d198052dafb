// Runs the three walks that docs/walks.md describes, and counts the files that take part in each. Every file that the page
// names must have run. The service runs in this process under V8's coverage; players and instances are processes of their
// own, and the journal is a thread of its own, so those are not counted.
import { fork } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { Session } from "node:inspector/promises";
import { tmpdir } from "node:os";
import { join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import { prepare } from "./prepare.mjs";
import { ROOT, say } from "./run.mjs";

const CONFIG = `
harbor: walks
players: { builds: [game-1] }
lobbies:
  quayside: { title: Quayside, roomKinds: [crews] }
roomKinds:
  crews: { capacity: { min: 2, max: 4, default: 2 }, levels: [brine-gate] }
queues:
  pairs: { title: Pairs, lobby: quayside, roomKind: crews, sides: { count: 2, max: 1 } }
levels:
  brine-gate: { title: Brine Gate, players: { min: 1, max: 4 }, pool: sluice }
builds:
  breakwater: { command: node, args: [dist/server/main.js, --tide-ms, "600000"] }
pools:
  sluice: { build: breakwater, ports: { from: 7960, to: 7979 }, max: 4, plan: { spare: 2 } }
listen: { port: 0 }
operators: { access: open }
log: { level: silent }
`;

/** The walks, each with what is done first and what is then measured. */
const WALKS = [
  {
    name: "ready",
    what: "a player says that it is ready, and the other is told",
    before: [
      { do: "room", who: 0 },
      { do: "join", who: 1 },
      { do: "level", who: 0 },
    ],
    walk: { do: "ready", who: 0 },
  },
  {
    name: "start",
    what: "the host starts, and an instance is given the match",
    before: [{ do: "ready", who: 1 }],
    walk: { do: "start", who: 0 },
  },
  {
    name: "match",
    what: "the second of two players searches, and both are in a room that was made for them",
    before: [{ do: "search", who: 2 }],
    walk: { do: "search-and-meet", who: 3 },
  },
];

await prepare();
const { parseConfig, serve } = await import("../packages/service/dist/index.js");
const parsed = parseConfig(CONFIG);
if (!parsed.ok) throw new Error(JSON.stringify(parsed.faults));
const data = mkdtempSync(join(tmpdir(), "walks-"));
const service = await serve({
  config: { ...parsed.config, data },
  folder: join(ROOT, "examples/tidewrights"),
  stopInstances: true,
});
const players = fork(fileURLToPath(new URL("./walk-players.mjs", import.meta.url)), [service.url]);
const ask = (step) =>
  new Promise((resolve, reject) => {
    players.once("message", (answer) => (answer.ok ? resolve() : reject(new Error(answer.detail))));
    players.send(step);
  });

const session = new Session();
session.connect();
await session.post("Profiler.enable");
await session.post("Profiler.startPreciseCoverage", { callCount: true, detailed: false });

/** Our own files in which anything has run since they were asked for last. */
async function filesRun() {
  const { result } = await session.post("Profiler.takePreciseCoverage");
  return result
    .filter(
      ({ url, functions }) =>
        /\/packages\/\w+\/dist\//.test(url) && functions.some(({ ranges }) => ranges[0].count > 0),
    )
    .map(({ url }) =>
      relative(join(ROOT, "packages"), fileURLToPath(url)).replace("/dist/", "/src/").replace(/js$/, "ts"),
    )
    .sort();
}

/** Files that the page names in the section of a walk, in order. */
function namedIn(section) {
  const page = readFileSync(join(ROOT, "docs/walks.md"), "utf8");
  const [, text = ""] = page.split(`<a id="${section}"></a>`);
  const [own] = text.split('<a id="');
  return [...new Set([...own.matchAll(/`((?:core|service)\/src\/[\w/-]+\.ts)`/g)].map(([, file]) => file))];
}

let failed = false;
try {
  await ask({ do: "begin" });
  for (const { name, what, before, walk } of WALKS) {
    for (const step of before) await ask(step);
    // What is done now and then has been done, and what comes of the steps before is over.
    await new Promise((resolve) => setTimeout(resolve, 300));
    await filesRun();
    await ask(walk);
    const files = await filesRun();
    const named = namedIn(name);
    const lost = named.filter((file) => !files.includes(file));
    failed ||= named.length === 0 || lost.length > 0;
    console.log(`${name}: ${named.length} files are named, ${files.length} ran: ${what}`);
    for (const file of lost) console.log(`  named and did not run: ${file}`);
    if (process.argv.includes("--files")) for (const file of files) console.log(`  ${file}`);
  }
} finally {
  players.kill();
  await service.stop();
  rmSync(data, { recursive: true, force: true });
}
if (failed) say("docs/walks.md names files that take no part in their walk, or none.");
process.exit(failed ? 1 : 0);
