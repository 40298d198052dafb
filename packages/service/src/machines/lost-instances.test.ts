import { afterEach, describe, expect, it } from "vitest";
import type { Config } from "../config/schema.ts";
import {
  endAll,
  isAlive,
  sayToInstance,
  startTestService,
  startVoyage,
  testConfig,
  untilState,
} from "../testing/test-service.ts";

afterEach(endAll);

const start = (kind: Partial<Config["roomKinds"][string]>, change: (config: Config) => Config = (config) => config) =>
  startTestService(
    testConfig(undefined, (config) => {
      const { crews } = config.roomKinds;
      if (crews === undefined) throw new Error("the test configuration has no crews");
      return change({ ...config, roomKinds: { crews: { ...crews, ...kind } } });
    }),
  );

describe("an instance that is lost in the middle of a run", () => {
  it("is followed by another where the room kind moves on, and the run it was in is void", async () => {
    const service = await start({ onLoss: "move" });
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of [a, b]) await sayToInstance(address, pass);
    await Promise.all([ansel, brisa].map((player) => player.until(({ room }) => room?.phase === "playing")));
    const { pid = 0 } = await service.operator.instance(a.instance ?? "");
    const begin = performance.now();
    process.kill(pid, "SIGKILL");
    const { room } = await brisa.until((state) => state.room?.result?.void === true);
    expect(performance.now() - begin).toBeLessThan(5_000);
    expect(room?.result).toMatchObject({ run: a.run, standings: [], note: expect.stringContaining("SIGKILL") });
    const next = await new Promise<typeof b>((resolve) => brisa.on("pass", resolve));
    expect(next.run).not.toBe(a.run);
    expect(next.instance).not.toBe(a.instance);
    expect((await ansel.nextPass()).run).toBe(next.run);
    for (const { address, pass } of [await ansel.nextPass(), next]) {
      expect(await sayToInstance(address, pass)).toMatchObject({ status: 200 });
    }
    await brisa.until((state) => state.room?.phase === "playing");
  });

  it("that only hangs is missed by its silence, killed, and the run void", async () => {
    const service = await start({});
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of [a, b]) await sayToInstance(address, pass);
    await ansel.until(({ room }) => room?.phase === "playing");
    const { pid = 0 } = await service.operator.instance(a.instance ?? "");
    process.kill(pid, "SIGSTOP");
    const { room } = await ansel.until((state) => state.room?.result?.void === true, 20_000);
    expect(room).toMatchObject({ phase: "gathering", setback: { code: "instance-lost" } });
    await untilState(service.operator, ({ instances }) => instances[a.instance ?? ""]?.exit !== undefined);
    expect(isAlive(pid)).toBe(false);
  });
});

describe("a room that goes from level to level", () => {
  it("is on both instances while it changes, and lets go of the former once all have arrived", async () => {
    const service = await start(
      { resultsMs: 60_000, levelBy: "rotation", levels: ["brine-gate", "far-sound"] },
      (config) => {
        const { sluice } = config.pools;
        const { "brine-gate": gate } = config.levels;
        if (sluice === undefined || gate === undefined) throw new Error("the test configuration has another form");
        const { from } = sluice.ports;
        return {
          ...config,
          levels: { ...config.levels, "far-sound": { ...gate, title: "Far Sound", pool: "weir" } },
          pools: {
            sluice: { ...sluice, ports: { from, to: from + 24 } },
            weir: { ...sluice, ports: { from: from + 25, to: from + 49 } },
          },
        };
      },
    );
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom({ capacity: 2 });
    expect(room.level?.id).toBe("brine-gate");
    await brisa.joinRoom({ room: room.id });
    await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
    await ansel.start();
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of [a, b]) await sayToInstance(address, pass);
    await ansel.until((state) => state.room?.phase === "playing");
    await sayToInstance(a.address, "report");
    const { room: after } = await ansel.until((state) => state.room?.phase === "results");
    expect(after?.level?.id).toBe("far-sound");
    await ansel.ask("room.again", {});
    await ansel.until((state) => state.room?.travel?.from?.instance === a.instance);
    const [c, d] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect([c.level, c.instance === a.instance]).toEqual(["far-sound", false]);
    // A pass for the level before is none for this one.
    expect(await sayToInstance(c.address, a.pass)).toMatchObject({ body: { code: "pass-foreign" } });
    expect((await service.operator.instance(a.instance ?? "")).state).toBe("open");
    for (const { address, pass } of [c, d]) await sayToInstance(address, pass);
    const { instances } = await untilState(
      service.operator,
      (state) => state.instances[a.instance ?? ""]?.exit !== undefined,
    );
    expect(instances[a.instance ?? ""]?.why).toContain("its room has gone on to another place");
    expect(ansel.state.room?.phase).toBe("playing");
  });
});
