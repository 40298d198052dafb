// Takes the screenshots in docs/screenshots: the console in Chromium, yh in a terminal window under Xvfb, all on the demo.
// Names of screenshots leave out the others: npm run screenshots -- yh-rooms.
import { spawn } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { hashOf, prepare } from "./prepare.mjs";
import { ensureChromium } from "./programs.mjs";
import { node, ROOT, run, say } from "./run.mjs";
import { fleetScene } from "./screenshots/fleet-scene.mjs";
import { metricsScreenshot } from "./screenshots/metrics.mjs";
import { operationScene } from "./screenshots/operation-scene.mjs";
import { peopleScene, searchScene, travelScene } from "./screenshots/scenes.mjs";
import { DRAWN_FROM, DRAWN_STAMP } from "./screenshots-stamp.mjs";

const OUT = join(ROOT, "docs/screenshots");
const PORT = 7429;
const URL = `http://127.0.0.1:${PORT}`;
const OPERATION_PORT = 7_433;
const OPERATION_URL = `http://127.0.0.1:${OPERATION_PORT}`;
const FLEET_PORT = 7_443;
const FLEET_URL = `http://127.0.0.1:${FLEET_PORT}`;
const YH = `${node} ${join(ROOT, "packages/cli/bin/yh.js")}`;

/** How players of the demo get onto its instances. */
const AWAY = join(ROOT, "examples/tidewrights/dist/game/play.js");

const named = process.argv.slice(2);
const isWanted = (name) => named.length === 0 || named.includes(name);

await prepare();
const executablePath = await ensureChromium();
mkdirSync(OUT, { recursive: true });
// What an earlier demo has left would be in the images too.
rmSync(join(ROOT, "data/demo"), { recursive: true, force: true });
const demo = spawn(
  node,
  [join(ROOT, "examples/tidewrights/dist/demo/main.js"), "--port", String(PORT), "--bots", "12"],
  { stdio: "ignore" },
);
const ended = new Promise((resolve) => demo.once("exit", resolve));
try {
  await wait(12_000);
  if (demo.exitCode !== null) throw new Error("the demo ended at once; run npm run demo to see why");
  await consoleScreenshots();
  await terminalScreenshots();
  if (named.length === 0) writeFileSync(join(ROOT, DRAWN_STAMP), `${hashOf(DRAWN_FROM)}\n`);
} finally {
  demo.kill("SIGINT");
  await ended;
}
process.exit(0);

async function consoleScreenshots() {
  const { chromium } = await import("playwright-core");
  const browser = await chromium.launch({
    executablePath,
    args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
  });
  for (const row of [
    ["console-people", "light", "people", "#players tbody tr:has-text('Sorrel') td:nth-child(2)"],
    ["console-travel", "dark", "rooms", "#rooms tbody tr:has-text('Sorrel') td:nth-child(2)"],
    ["console-queue", "dark", "queues", "#queues tbody tr td:nth-child(2)"],
    ["console-overview", "dark", "", undefined],
  ]) {
    if (isWanted(row[0])) await consoleScreenshot(browser, row);
  }
  if (isWanted("console-try")) await tryScreenshot(browser);
  if (isWanted("metrics")) {
    await metricsScreenshot(browser, URL, join(OUT, "metrics.png"));
    say("wrote metrics.png");
  }
  if (isWanted("console-operation")) await operationScreenshot(browser);
  await labScreenshots(browser);
  await browser.close();
}

async function consoleScreenshot(browser, [name, colorScheme, area, pick]) {
  const isOfQueue = name.startsWith("console-queue");
  const part = name === "console-travel" ? await travelScene(URL) : isOfQueue ? await searchScene(URL) : undefined;
  const isOfPeople = name === "console-people";
  const people = isOfPeople ? await peopleScene(URL) : undefined;
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme });
  const isOverview = name === "console-overview";
  await page.goto(`${URL}/#/${area}`);
  const there = isOverview ? "#over-time path" : "main tbody tr";
  await page.locator(there).first().waitFor({ state: "attached", timeout: 60_000 });
  if (isOfQueue)
    await page.locator("#queues tbody tr td:nth-child(7):not(:text-is('0'))").waitFor({ timeout: 120_000 });
  // A line takes some points, of which one comes every ten seconds.
  await wait(isOverview && named.length > 0 ? 100_000 : 7_000);
  if (pick) await page.locator(pick).first().click();
  if (name === "console-queue") await page.locator("article li button", { hasText: "Dragan" }).click();
  await wait(1_000);
  await page.screenshot({ path: join(OUT, `${name}.png`) });
  say(`wrote ${name}.png`);
  await part?.();
  await people?.();
}

/** Two players in the page: one's line was cut and mended, the other asks what a host can. */
async function tryScreenshot(browser) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: "light" });
  await page.goto(`${URL}/#/try`);
  const add = page.getByRole("button", { name: "Add a player" });
  await add.click();
  await add.click();
  const [ansel, brisa] = [page.getByRole("article", { name: "Ansel" }), page.getByRole("article", { name: "Brisa" })];
  await brisa.getByText("in the lobby").waitFor();
  await ansel.getByRole("button", { name: "Open crews", exact: true }).click();
  const title = await ansel.getByText(/in room \w+, gathering/).innerText();
  await brisa.getByLabel("Code of a room").fill(/in room (\w+)/.exec(title)?.[1] ?? "");
  await brisa.getByRole("button", { name: "Join", exact: true }).click();
  await ansel.getByText("update room member-joined").waitFor();
  await brisa.getByRole("button", { name: "Ready", exact: true }).click();
  await brisa.getByRole("button", { name: "Cut the line" }).click();
  await ansel.getByText("update room member-away").waitFor();
  await ansel.getByRole("button", { name: "Start", exact: true }).click();
  await ansel.getByRole("alert").waitFor();
  await wait(1_000);
  await page.screenshot({ path: join(OUT, "console-try.png") });
  say("wrote console-try.png");
  await page.getByRole("button", { name: "Remove Ansel" }).click();
  await page.getByRole("button", { name: "Remove Brisa" }).click();
  await page.close();
}

/** What webhooks do, and what the configuration file has that does not hold yet. */
async function operationScreenshot(browser) {
  const scene = await operationScene(OPERATION_PORT);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: "dark" });
  await page.goto(`${scene.url}/#/operation`);
  await page.getByRole("button", { name: "Look" }).first().click();
  await page.locator("#configuration tbody tr").first().waitFor();
  await wait(2_500);
  await page.screenshot({ path: join(OUT, "console-operation.png") });
  say("wrote console-operation.png");
  await page.close();
  await scene.end();
}

async function labScreenshots(browser) {
  const wider = ["queue", "--queue", "crews", "--tickets", "evening.jsonl", "--rules", "wider.yaml"];
  const sweep = ["sweep", "--queue", "crews", "--tickets", "evening.jsonl", "--rules", "by-price.yaml"];
  const vary = ["--vary", "closeness.0.gap=t0.5,t0.75,t1,t1.5,t2"];
  const allowances = ["--vary", "choose.allowance=x0.75,x1,x1.1,x1.2,x1.3,x1.5,x1.75,x2,x3"];
  if (isWanted("lab-report")) {
    const pages = [
      await labScreenshot(browser, "lab-report", wider, 1_350),
      await labScreenshot(browser, "lab-sweep", [...sweep, ...vary, ...allowances], 960),
    ];
    await run("convert", [...pages, "-append", join(OUT, "lab-report.png")]);
    say("wrote lab-report.png");
  }
  const rush = ["pool", "--pool", "sluice", "--generate", "rush.yaml", "--machines", "machines.yaml"];
  const policies = ["--policy", "on-demand.yaml", "--policy", "roomy.yaml"];
  if (isWanted("lab-pool")) {
    const page = await labScreenshot(browser, "lab-pool", [...rush, ...policies], 1_390);
    await run("convert", [page, join(OUT, "lab-pool.png")]);
    say("wrote lab-pool.png");
  }
}

/** A report of the lab on the example's files: where it was drawn to. */
async function labScreenshot(browser, name, words, height) {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-lab-"));
  const file = (one) => join(ROOT, "examples/tidewrights/lab", one);
  const report = join(folder, "report.html");
  const args = words.map((word) => (/\.(yaml|jsonl)$/.test(word) ? file(word) : word));
  const config = join(ROOT, "examples/tidewrights/harbor.yaml");
  await run(node, [
    join(ROOT, "packages/cli/bin/yh.js"),
    "lab",
    ...args,
    "--config",
    config,
    "--report",
    report,
    "--json",
  ]);
  const page = await browser.newPage({ viewport: { width: 1280, height } });
  await page.goto(`file://${report}`);
  const drawn = join(folder, `${name}.png`);
  await page.screenshot({ path: drawn });
  return drawn;
}

/** A terminal of 100 columns on a display of its own. Needs xvfb, xterm and imagemagick. */
async function terminalScreenshots() {
  const display = ":97";
  const xvfb = spawn("Xvfb", [display, "-screen", "0", "1280x800x24", "-nolisten", "tcp"], { stdio: "ignore" });
  // Thrown here, what was started is ended; as an event of its own it would end this at once, and leave the demo behind.
  await new Promise((resolve, reject) => xvfb.once("spawn", resolve).once("error", reject));
  await wait(1_000);
  const shown = (line) => `printf '\\033[33m$\\033[0m %s\\n' "${line}"`;
  const yh = (command) => `${shown(`yh ${command}`)}; ${YH} ${command} --url ${URL} 2>&1; echo`;
  const at = (url, command) => `${shown(`yh ${command}`)}; ${YH} ${command} --url ${url} 2>&1; echo`;
  const pick = (name, what, key) =>
    `${name}=$(${YH} ${what} --json --url ${URL} | grep '"${key}"' | head -1 | cut -d'"' -f4)`;
  const scenes = {
    "yh-top": [`${YH} top --url ${URL}`],
    "yh-rooms": [
      `${YH} room open quayside --name Final --url ${URL} >/dev/null 2>&1`,
      pick("FINAL", "room list --lobby quayside --limit 1", "code"),
      yh("room reserve $FINAL tidewrights:1201 --name Edda --minutes 10"),
      yh("room show $FINAL"),
      yh("room list --limit 8"),
      pick("ROOM", "room list --phase travelling --lobby far-light", "code"),
      yh("room show $ROOM"),
    ],
    "yh-access": [
      `${YH} key create "Night watch" --role operate --days 365 --url ${URL} >/dev/null`,
      `${YH} ban add --account game:4711 --reason "sold accounts" --url ${URL} >/dev/null`,
      yh("key create deploy-pipeline --role deploy --days 90"),
      yh("key list"),
      // Whoever is here just then.
      pick("WHO", "player list", "name"),
      yh("player ban $WHO --reason cheating --hours 72"),
      yh("ban list"),
      yh("console"),
      yh("audit"),
      yh("audit --check"),
    ],
    "yh-watch": [
      pick("ROOM", "room list --lobby far-light", "code"),
      pick("PLAYER", "player list", "id"),
      yh("explain room $ROOM"),
      yh("explain join $PLAYER $ROOM"),
      yh("watch --count 12"),
      yh("journal --last 60 --kind room --limit 5"),
      yh("bots --count 10 --seconds 8"),
    ],
    "yh-queue": [
      yh("party list"),
      pick("PARTY", "party list", "id"),
      yh("party show $PARTY"),
      yh("queue list"),
      yh("queue show crews"),
      // One that still waits: of one that is asked there is less to tell.
      `TICKET=$(${YH} queue show crews --json --url ${URL} | ${node} -p 'JSON.parse(fs.readFileSync(0)).tickets.find(({ state }) => state === "searching").id')`,
      yh("explain ticket $TICKET"),
    ],
    "yh-pools": [
      yh("pool list"),
      // A rush of players, and what the pool makes of it.
      `(${YH} bots --count 60 --seconds 30 --lobby quayside --aboard ${AWAY} --url ${URL} >/dev/null 2>&1 &)`,
      `${shown("yh bots --count 60 --lobby quayside ... &")}; sleep 14; echo`,
      yh("pool list"),
      yh("pool plan sluice"),
      yh("instance list --limit 12"),
    ],
    "yh-builds": [
      at(FLEET_URL, "machine list"),
      `ONE=$(${YH} instance list --json --url ${FLEET_URL} | ${node} -p 'JSON.parse(fs.readFileSync(0)).instances[0].id')`,
      at(FLEET_URL, "explain instance $ONE"),
      `TICKET=$(${YH} queue show crews --json --url ${FLEET_URL} | ${node} -p 'JSON.parse(fs.readFileSync(0)).tickets[0].id')`,
      `${shown("yh explain ticket $TICKET")}; ${YH} explain ticket $TICKET --url ${FLEET_URL} 2>&1 | head -8; echo ...; echo`,
      at(FLEET_URL, "build add breakwater --version 0.4.0 --steps 0.5,1 --enough 2"),
      at(FLEET_URL, "pool warm sluice --for 120 --min 6 --reason regatta"),
      at(FLEET_URL, "machine drain north-1 --within 600 --reason kernel"),
    ],
    "yh-reach": [
      yh("address"),
      yh(`doctor 127.0.0.1:${PORT}`),
      `${shown("printf 'regions\\nbrowse\\n' | yh play --name Gale --lobby far-light")}; printf 'regions\nbrowse\nquit\n' | ${YH} play --name Gale --lobby far-light --url ${URL} 2>&1 | grep -v '^[*]' | head -16`,
    ],
    "yh-replay": [
      // The one that has seen the most.
      `ROOM=$(${YH} room list --lobby far-light --json --url ${URL} | ${node} -p 'JSON.parse(fs.readFileSync(0)).rooms.sort((a, b) => b.revision - a.revision)[0].code')`,
      yh("replay $ROOM --at -6s"),
      `rm -f /tmp/monday.sqlite; cd /tmp; ${yh("backup monday.sqlite")}`,
      yh("restore monday.sqlite --check"),
    ],
    "yh-operation": [
      at(OPERATION_URL, "webhook list"),
      at(OPERATION_URL, "webhook dead analytics --limit 3"),
      at(OPERATION_URL, "config diff"),
      `cd $(dirname $CONFIG); ${shown("yh doctor --self")}; ${YH} doctor --self 2>&1`,
    ],
  };
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-screenshots-"));
  for (const [name, lines] of Object.entries(scenes)) {
    if (!isWanted(name)) continue;
    const operation =
      name === "yh-operation"
        ? await operationScene(OPERATION_PORT)
        : name === "yh-builds"
          ? await fleetScene(FLEET_PORT)
          : undefined;
    const part = operation?.end ?? (await { "yh-rooms": travelScene, "yh-queue": searchScene }[name]?.(URL));
    const script = join(folder, `${name}.sh`);
    writeFileSync(
      script,
      ["export FORCE_COLOR=1", `CONFIG=${operation?.config ?? ""}`, ...lines, "tput civis; sleep 40"].join("\n"),
    );
    const font = ["-fa", "DejaVu Sans Mono", "-fs", "10"];
    const colours = [
      "-bg",
      "#0D2433",
      "-fg",
      "#E9F0F2",
      "-xrm",
      "XTerm*color3: #F5B81C",
      "-xrm",
      "XTerm*color2: #6CC79F",
      "-xrm",
      "XTerm*color6: #8fc3dd",
      "-xrm",
      "XTerm*color1: #F0806C",
    ];
    const geometry = name === "yh-top" ? "126x22+0+0" : "156x46+0+0";
    const xterm = spawn("xterm", ["-geometry", geometry, "-b", "12", ...font, ...colours, "-e", "bash", script], {
      stdio: "ignore",
      env: { ...process.env, DISPLAY: display },
    });
    await wait({ "yh-watch": 18_000, "yh-pools": 26_000 }[name] ?? 9_000);
    const file = join(OUT, `${name}.png`);
    await run("import", ["-display", display, "-window", "root", file]);
    await run("mogrify", ["-crop", "1264x788+4+4", "-trim", "-bordercolor", "#0D2433", "-border", "14", file]);
    say(`wrote ${name}.png`);
    await part?.();
    xterm.kill();
    await wait(300);
  }
  xvfb.kill();
}
