import { OperatorClient } from "@yellow-harbor/client";
import { describe, expect, it } from "vitest";
import { Queue } from "../../packages/service/src/config/queue.ts";
import { Config } from "../../packages/service/src/config/schema.ts";
import { startTestService, startVoyage, testConfig } from "../../packages/service/src/testing/test-service.ts";
import { consoleFolder, look, withBrowser } from "./browser.ts";

withBrowser();

/** One against one, close in skill. */
const PAIRS = {
  sides: { count: 2, max: 1 },
  closeness: [{ attribute: "skill", gap: [[0, 50]] }],
  passEveryMs: 50,
};

const closed = () => testConfig("good", (config) => ({ ...config, operators: { ...config.operators, access: "key" } }));

describe("the console", () => {
  it("shows pools with their plan, versions and cost, pauses a planner and raises the alert, and finds a line in what an instance prints", async () => {
    const config = testConfig(undefined, (one) => {
      const { sluice } = one.pools;
      const pools = { sluice: { ...sluice, plan: { spare: 1 }, pricePerSecond: 0.5 } };
      return Config.parse({ ...one, pools, alerts: { ...one.alerts, "planner-paused": { forS: 0 } } });
    });
    const service = await startTestService(config, { consoleFolder });
    const { page, faults } = await look(`${service.url}/#/fleet`);
    const row = page.locator("#pools tbody tr", { hasText: "sluice" });
    await row.getByText("planned").waitFor();
    await row.click();
    const panel = page.getByRole("article", { name: "Pool sluice" });
    await panel.getByText("1 wanted: 0 held by rooms, 1 to spare; 1 run.").waitFor();
    await panel.getByText(/instance-seconds so far, at a cost of/).waitFor();
    await panel.getByText("from the configuration").waitFor();
    await panel.getByRole("button", { name: "Pause the planner" }).click();
    await panel.getByText("Its planner is paused").waitFor();
    await row.getByText("paused").waitFor();
    const { page: overview } = await look(service.url);
    const alert = overview.getByRole("list", { name: "Alerts" }).getByRole("listitem");
    await alert.getByText("The planner of pool sluice is paused.").waitFor();
    await alert.getByText("yh pool resume sluice lets it go on.").waitFor();
    await service.operator.addBuild("plain", { version: "2", command: "node", args: ["-e", "0"] });
    await panel.getByRole("button", { name: "Roll back" }).click();
    await panel.getByText("rolled back by an operator").waitFor();
    const [instance] = (await service.operator.instances()).instances;
    await page.locator("#instances tbody tr", { hasText: instance?.id.slice(0, 7) ?? "" }).click();
    await page.getByPlaceholder("Find in it").fill("no such line");
    await page.getByText("No line contains this.").waitFor();
    await page.getByPlaceholder("Find in it").fill("MODE GOOD");
    await page.locator("pre", { hasText: "mode good on port" }).waitFor();
    expect(faults).toEqual([]);
    await page.close();
  });

  it("shows rooms and instances as they are and as they change, without a reload", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const { page, faults } = await look(`${service.url}/#/rooms`);
    const fleet = await look(`${service.url}/#/fleet`);
    await page.getByText("No rooms yet.").waitFor();
    await page.getByRole("status").getByText("live").waitFor();
    const { ansel, brisa, room } = await startVoyage(service);
    const row = page.locator("#rooms tbody tr", { hasText: room.code });
    await row.getByText("travelling").waitFor();
    await row.getByText("Ansel").waitFor();
    await row.getByText("2/2").waitFor();
    const { instance = "" } = await ansel.nextPass();
    const ofInstance = fleet.page.locator("#instances tbody tr", { hasText: instance.slice(0, 7) });
    await ofInstance.getByText("busy").waitFor();
    await row.click();
    await page
      .getByRole("article", { name: `Room ${room.code}` })
      .getByText("Brine Gate, 1 to 6 players")
      .waitFor();
    await page.getByText(`Room ${room.code} starts for brine-gate with 2 players.`).waitFor();
    // What is open stands in the address: somebody else sees the same by it.
    const other = await look(page.url());
    await other.page.getByRole("article", { name: `Room ${room.code}` }).waitFor();
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    await ofInstance.getByText("ended").waitFor();
    await page.getByText("No rooms yet.").waitFor();
    await ofInstance.locator("td").nth(1).click();
    await fleet.page.getByText("mode good on port").waitFor();
    expect([...faults, ...fleet.faults]).toEqual([]);
  });

  it("shows queues, why a ticket waits and why a match was made, and pauses a queue", async () => {
    const queues = { pairs: { title: "Pairs", lobby: "quayside", roomKind: "crews", ...PAIRS } };
    const checked = Queue.parse(queues.pairs);
    const service = await startTestService(
      testConfig(undefined, (config) => ({ ...config, queues: { pairs: checked } })),
      { consoleFolder },
    );
    const { page, faults } = await look(`${service.url}/#/queues`);
    const [ansel, brisa, corin] = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    await ansel?.search({ queue: "pairs", attributes: { skill: 1_000 } });
    await corin?.search({ queue: "pairs", attributes: { skill: 4_000 } });
    const row = page.locator("#queues tbody tr", { hasText: "Pairs" });
    await row.getByRole("cell", { name: "2", exact: true }).waitFor();
    await row.getByRole("button", { name: "Pairs" }).click();
    const panel = page.getByRole("article", { name: "Queue pairs" });
    await panel.getByText("2 tickets, longest wait first").waitFor();
    await panel.getByRole("button", { name: /Corin/ }).click();
    const why = page.getByRole("article", { name: "Why it is still waiting" });
    await why.getByText("no other ticket is in reach").waitFor();
    await why.getByLabel("Tickets left after each rule").getByText("skill").waitFor();
    await why.getByRole("button", { name: "Close" }).click();

    await panel.getByRole("button", { name: "Pause" }).click();
    await row.getByText("paused").waitFor();
    await panel.getByRole("button", { name: "Open" }).click();
    await row.getByText("open").waitFor();
    // A service that was not started from a file says so.
    await panel.getByRole("button", { name: "Apply configuration" }).click();
    await panel.getByText("was not started from a file").waitFor();

    await brisa?.search({ queue: "pairs", attributes: { skill: 1_010 } });
    await panel.getByRole("button", { name: /1 : 1/ }).click();
    await page.getByRole("article", { name: "Why these" }).getByText("Side 1:").waitFor();
    expect(faults).toEqual([]);
  });

  it("shows sides, turns, settings and latency of a room, and answers why somebody may not join", async () => {
    const config = testConfig("good", (one) => {
      const { crews } = one.roomKinds;
      const kinds = crews && { crews: { ...crews, sides: { names: ["ebb", "flood"], max: 1, apart: null } } };
      return { ...one, ...(kinds && { roomKinds: kinds }), players: { ...one.players, heartbeatEveryMs: 100 } };
    });
    const service = await startTestService(config, { consoleFolder });
    const [ansel, brisa, corin] = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    const opened = await ansel?.openRoom({ capacity: 2 });
    await brisa?.joinRoom({ room: opened?.room.id ?? "" });
    await ansel?.changeRoom({ settings: { weather: "fog" } });
    await ansel?.ask("room.pass-turn", {});
    const { page, faults } = await look(`${service.url}/#/rooms`);
    await page.getByRole("button", { name: opened?.room.code ?? "" }).click();
    const panel = page.getByRole("article", { name: `Room ${opened?.room.code}` });
    await panel.getByText("ebb, 1 of 1").waitFor();
    await panel.getByText("weather fog").waitFor();
    await panel.getByLabel("has the turn").waitFor();
    await panel
      .getByText(/^[\d.]+ ms$/)
      .first()
      .waitFor();
    await panel.getByRole("button", { name: "Why can somebody not join?" }).click();
    await panel.getByLabel("Player who wants to join").selectOption(corin?.id ?? "");
    await panel.getByText("room-full").waitFor();
    await panel.getByText("It would change: a member leaves.").waitFor();
    await brisa?.leaveRoom();
    await panel.getByLabel("Player who wants to join").selectOption(ansel?.id ?? "");
    await panel.getByText("already-in-room").waitFor();
    expect(faults).toEqual([]);
  });

  it("starts a room, kicks a member with a reason, and closes it, each with a second click", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom();
    await brisa.joinRoom({ room: room.id });
    const { page, faults } = await look(`${service.url}/#/rooms?open=${room.id}`);
    const verbs = page.getByRole("region", { name: "What you can do to it" });
    await verbs.getByRole("button", { name: "Start" }).click();
    await verbs.getByRole("button", { name: "It starts for who is in it, whatever the host wants: do it" }).click();
    // What is refused says why, and nothing has happened.
    await verbs.getByText("the host has not picked a level", { exact: false }).waitFor();
    await verbs.getByLabel("Reason, or notice, that is told").fill("away for too long");
    await verbs.getByLabel("Member").selectOption("Brisa");
    const told = new Promise((resolve) => brisa.on("outOfRoom", resolve));
    await verbs.getByRole("button", { name: "Kick Brisa" }).click();
    await verbs.getByRole("button", { name: "Brisa is in the lobby again and may come back: do it" }).click();
    expect(JSON.stringify(await told)).toContain("away for too long");
    await verbs.getByText("Brisa was kicked.").waitFor();
    await verbs.getByRole("button", { name: "Close the room" }).click();
    await verbs.getByRole("button", { name: "1 member in the lobby again, told why: do it" }).click();
    await ansel.until((state) => state.room === undefined);
    await page.getByText("This event closed the room.").waitFor();
    expect(faults).toEqual([]);
  });

  it("looks back at a room, event by event, and at one that has closed", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom();
    await brisa.joinRoom({ room: room.id });
    await ansel.board.set("stones", 7);
    const { page, faults } = await look(`${service.url}/#/rooms`);
    await page.getByRole("button", { name: room.code }).click();
    await page.getByRole("button", { name: "Look back" }).click();
    const panel = page.getByRole("article", { name: `Room ${room.code}, looking back` });
    await panel.getByRole("cell", { name: "stones", exact: true }).waitFor();
    await panel.getByRole("button", { name: "Previous event" }).click();
    await panel.getByRole("cell", { name: "stones", exact: true }).waitFor({ state: "detached" });
    await panel.getByRole("cell", { name: "Brisa" }).waitFor();
    await panel.getByRole("button", { name: /Ansel opens room/ }).click();
    await panel.getByRole("cell", { name: "Brisa" }).waitFor({ state: "detached" });
    await panel.getByRole("button", { name: "Next event" }).click();
    await panel.getByRole("cell", { name: "Brisa" }).waitFor();
    await panel.getByRole("button", { name: "Close", exact: true }).click();
    await page.getByRole("article", { name: `Room ${room.code}`, exact: true }).waitFor();
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    // It has closed while it was chosen, and the journal still knows it.
    await panel.getByText("This event closed the room.").waitFor();
    await panel.getByRole("button", { name: "Close", exact: true }).click();
    await ansel.openRoom();
    // The search goes where it was, though no room has it now.
    await page.keyboard.press("/");
    await page.getByRole("combobox", { name: "Find a room, player or instance" }).fill(room.code.toLowerCase());
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: `Look back at room ${room.code}` }).click();
    await panel.getByText("This event closed the room.").waitFor();
    expect(faults).toEqual([]);
  });

  it("shows a travel on its way: who is how far, whom it waits for, what was tried; and gives it up", async () => {
    const config = testConfig(undefined, (parsed) => {
      const { crews } = parsed.roomKinds;
      const kind = crews && { ...crews, destinations: ["player-hosted" as const, "relayed" as const] };
      return { ...parsed, ...(kind && { roomKinds: { crews: { ...kind, stragglers: "go-without" as const } } }) };
    });
    const service = await startTestService(config, { consoleFolder });
    const { page, faults } = await look(`${service.url}/#/rooms`);
    const { ansel, brisa, room } = await startVoyage(service);
    await ansel.until((state) => state.room?.travel?.player === ansel.id);
    await ansel.travel.decline("its port is closed");
    await Promise.all([ansel, brisa].map((player) => player.until(({ room: now }) => now?.travel?.by === "relayed")));
    await brisa.travel.progress(37);
    await brisa.setBackground(true);
    await page.locator("#rooms tbody tr", { hasText: room.code }).click();
    const travel = page.getByRole("region", { name: "Travel" });
    await travel.getByText("relayed by the service").waitFor();
    await travel.getByText("Not a member's world: Ansel cannot run the world: its port is closed").waitFor();
    await travel.getByText("in the background").waitFor();
    await travel.getByText("not waited for; it may follow").waitFor();
    await travel.getByText("37 %").waitFor();
    await ansel.travel.arrive();
    await travel.getByText("has arrived").waitFor();
    await page.getByRole("button", { name: "Give the travel up" }).click();
    await page.getByRole("button", { name: "Everybody goes back: do it" }).click();
    const { room: back } = await ansel.until((state) => state.room?.phase === "gathering");
    expect(back?.setback?.code).toBe("travel-aborted");
    await travel.waitFor({ state: "detached" });
    expect(faults).toEqual([]);
  });

  it("says that it has lost the service, keeps the state, and recovers by itself", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const { page } = await look(`${service.url}/#/rooms`);
    await page.getByRole("button", { name: room.code }).waitFor();
    await service.stop();
    await page.getByText(/service lost \d+ s ago, next try in/).waitFor();
    expect(await page.getByRole("button", { name: room.code }).isVisible()).toBe(true);
    const again = await service.restart();
    await page.getByRole("status").getByText("live").waitFor();
    const { room: second } = await (await again.player("Brisa")).openRoom();
    await page.getByRole("button", { name: second.code }).waitFor();
  });

  it("asks for a key where one is needed, and goes on with it", async () => {
    const service = await startTestService(closed(), { consoleFolder });
    const { page } = await look(service.url);
    await page.getByRole("textbox", { name: "Key" }).fill("wrong");
    await page.getByRole("button", { name: "Log in" }).click();
    await page.getByText("The key is not valid here").waitFor();
    await page.getByRole("textbox", { name: "Key" }).fill(service.operatorToken);
    await page.getByRole("button", { name: "Log in" }).click();
    await page.getByText("Quayside", { exact: true }).waitFor();
  });

  it("logs in by a link once, and out again", async () => {
    const service = await startTestService(closed(), { consoleFolder });
    const operator = new OperatorClient({ url: service.url, token: service.operatorToken });
    const { code } = await operator.logInLink();
    const { page, faults } = await look(`${service.url}/#log-in=${code}`);
    await page.getByText("first key", { exact: false }).waitFor();
    // Nobody who looks over a shoulder, or into the history, finds the code.
    expect(page.url()).toBe(`${service.url}/`);
    const other = await look(`${service.url}/#log-in=${code}`);
    await other.page.getByRole("heading", { name: "Log in with a key" }).waitFor();
    await page.getByRole("button", { name: "Log out" }).click();
    await page.getByRole("heading", { name: "Log in with a key" }).waitFor();
    expect(faults).toEqual([]);
  });

  it("shows and offers each role what it may do, creates and revokes keys, and shows what was done", async () => {
    const service = await startTestService(closed(), { consoleFolder });
    const operator = new OperatorClient({ url: service.url, token: service.operatorToken });
    const { secret } = await operator.createKey({ name: "Night watch", role: "look" });
    const ansel = await service.player("Rude");
    await operator.banPlayer(ansel.id, { reason: "cheating" });

    const admin = await look(`${service.url}/#/access`);
    await admin.page.getByRole("textbox", { name: "Key" }).fill(service.operatorToken);
    await admin.page.getByRole("button", { name: "Log in" }).click();
    await admin.page.goto(`${service.url}/#/access`);
    await admin.page.getByLabel("Who or what uses it").fill("Pipeline");
    await admin.page.getByLabel("Role").selectOption("deploy");
    await admin.page.getByRole("button", { name: "Create a key" }).click();
    await admin.page.getByText("it is not shown again").waitFor();
    const created = await admin.page.locator("code", { hasText: "yhk_" }).innerText();
    expect((await new OperatorClient({ url: service.url, token: created }).whoAmI()).role).toBe("deploy");
    const row = admin.page.locator("#keys tbody tr", { hasText: "Pipeline" });
    await row.getByRole("button", { name: "Revoke" }).click();
    await row.getByText("revoked").waitFor();
    await admin.page.locator("#audit tbody tr", { hasText: "revokeKey" }).waitFor();
    await admin.page.getByRole("button", { name: "Check the log" }).click();
    await admin.page.getByText(/All \d+ entries are there/).waitFor();
    await admin.page.locator("#bans tbody tr", { hasText: "cheating" }).getByRole("button", { name: "Lift" }).waitFor();

    const { page: watch } = await look(`${service.url}/#/access`);
    await watch.getByRole("textbox", { name: "Key" }).fill(secret);
    await watch.getByRole("button", { name: "Log in" }).click();
    await watch.locator("#bans tbody tr", { hasText: "cheating" }).waitFor();
    expect(await watch.locator("#keys, #audit").count()).toBe(0);
    expect(await watch.getByRole("button", { name: "Lift" }).count()).toBe(0);
    // What the page does not offer the service does not do either.
    const status = await watch.evaluate(() =>
      fetch("/v1/keys", {
        method: "POST",
        body: '{"name":"x","role":"look"}',
        headers: { "content-type": "application/json" },
      }).then((response) => response.status),
    );
    expect(status).toBe(403);
    expect(admin.faults).toEqual([]);
  });

  it("has a look for day and one for dusk, and remembers the choice", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const { page } = await look(service.url);
    const ground = () =>
      page.evaluate(() => getComputedStyle(document.body.querySelector("#root > div") as Element).backgroundColor);
    await page.getByRole("button", { name: "Switch to dusk" }).click();
    const dusk = await ground();
    await page.reload();
    await page.getByRole("button", { name: "Switch to day" }).waitFor();
    expect(await ground()).toBe(dusk);
    await page.getByRole("button", { name: "Switch to day" }).click();
    expect(await ground()).not.toBe(dusk);
  });
});
