import { readFileSync } from "node:fs";
import { connect } from "node:net";
import { join } from "node:path";
import { type Config, parseConfig } from "@yellow-harbor/service";
import { afterEach, describe, expect, it } from "vitest";
import { testPorts } from "../packages/service/src/testing/test-ports.ts";
import { endAll, startTestService, type TestService } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";

afterEach(endAll);

/** A service with the configuration that a page shows, word for word but for its ports. */
async function startPage(page: string): Promise<{ service: TestService; build: string; config: Config }> {
  const [, yaml = ""] = /^```yaml\n([\s\S]*?)^```$/m.exec(readFileSync(join(ROOT, "docs", page), "utf8")) ?? [];
  const parsed = parseConfig(yaml);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.faults));
  const { config } = parsed;
  const from = testPorts();
  const pools: Config["pools"] = Object.fromEntries(
    Object.entries(config.pools).map(([name, pool]) => [
      name,
      { ...pool, ports: { from, to: from + 9 }, stopMs: 500, portRestMs: 0 },
    ]),
  );
  const own = { ...config, pools, listen: { ...config.listen, port: 0 }, log: { level: "silent" as const, areas: {} } };
  const service = await startTestService(own, { folder: join(ROOT, "examples/python") });
  return { service, build: config.players.builds[0] ?? "", config: own };
}

const answers = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = connect(port, "127.0.0.1", () => resolve(true)).once("error", () => resolve(false));
    socket.once("close", () => socket.destroy());
  });

const pair = ({ service, build }: { service: TestService; build: string }) =>
  Promise.all(["Ansel", "Brisa"].map((name) => service.player(name, { build })));

describe("the configuration of the page", () => {
  it("for a game without a server plays relayed, when the host cannot run the world", async () => {
    const [ansel, brisa] = await pair(await startPage("no-server.md"));
    if (!ansel || !brisa) throw new Error("no players");
    await ansel.quickJoin();
    await brisa.quickJoin();
    for (const player of [ansel, brisa]) {
      player.on("change", ({ state: { room } }) => {
        const travel = room?.travel;
        if (travel?.by === "player-hosted" && travel.step === "preparing" && travel.player === player.id)
          player.travel.decline("this game does not host").catch(() => undefined);
        if (travel?.by === "relayed" && travel.step === "boarding" && !travel.travellers[player.id]?.arrived)
          player.travel.arrive().catch(() => undefined);
      });
    }
    await ansel.pickLevel("gull-flats");
    await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
    await ansel.start();
    const { room } = await brisa.until((state) => state.room?.phase === "playing");
    expect(room?.destination?.by).toBe("relayed");
    const heard = new Promise((resolve) => brisa.on("relayed", resolve));
    await ansel.relay({ wave: "left" });
    expect(await heard).toEqual({ from: ansel.id, body: { wave: "left" } });
    await ansel.setResult({ standings: [{ player: ansel.id, score: 1 }] });
    expect((await brisa.until((state) => state.room?.result !== undefined)).room?.phase).toBe("gathering");
  });

  it.each([
    ["other-languages.md", "spoken", "copper-sound"],
    ["unchanged-server.md", "adopted", "gull-flats"],
  ])("%s brings two players to an instance in Python", async (page, kind, level) => {
    const started = await startPage(page);
    const { service } = started;
    const [ansel, brisa] = await pair(started);
    const opened = await ansel?.openRoom({ kind, capacity: 2 });
    await brisa?.joinRoom({ room: opened?.room.id ?? "" });
    await ansel?.pickLevel(level);
    await Promise.all([ansel?.setReady(true), brisa?.setReady(true)]);
    await ansel?.start();
    const pass = await brisa?.nextPass();
    expect(pass).toMatchObject({ level, address: { host: "127.0.0.1" } });
    // In the middle of the travel: the instance ends with the service, and no other comes in its place.
    await service.stop();
    const { pools } = started.config;
    for (const { ports } of Object.values(pools))
      for (let port = ports.from; port <= ports.to; port++) expect(await answers(port)).toBe(false);
  });

  it("for strangers finds, confirms and starts a match", async () => {
    const [ansel, brisa] = await pair(await startPage("strangers.md"));
    if (!ansel || !brisa) throw new Error("no players");
    for (const player of [ansel, brisa]) {
      player.on("ticket", ({ state, confirm }) => {
        if (state === "confirming" && confirm && !confirm.accepted.includes(player.id))
          player.confirmMatch({ match: confirm.match, accept: true }).catch(() => undefined);
      });
      player.on("change", ({ state: { room } }) => {
        if (room?.travel?.step === "boarding" && !room.travel.travellers[player.id]?.arrived)
          player.travel.arrive().catch(() => undefined);
      });
      await player.search({ queue: "duels", attributes: { skill: 1500 } });
    }
    const { room } = await ansel.until((state) => state.room?.phase === "playing");
    expect(Object.keys(room?.members ?? {}).sort()).toEqual([ansel.id, brisa.id].sort());
  });
});
