import { join } from "node:path";
import { BuildSpec } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { goAboard } from "../examples/tidewrights/src/game/play.ts";
import { endAll, startTestService, testConfig } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";

afterEach(endAll);

const tidewrights = testConfig(undefined, (config) => {
  const { crews } = config.roomKinds;
  const args = [join(ROOT, "examples/tidewrights/dist/server/main.js"), "--tide-ms", "100"];
  return {
    ...config,
    ...(crews && { roomKinds: { crews: { ...crews, resultsMs: 60_000 } } }),
    builds: { plain: BuildSpec.parse({ command: "node", args }) },
  };
});

describe("run after run on one instance", () => {
  it("starts the next one the moment a result is known, and nobody of either is let go of too early", async () => {
    const service = await startTestService(tidewrights);
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom({ capacity: 2 });
    await brisa.joinRoom({ room: room.id });
    await ansel.pickLevel("brine-gate");
    await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
    // The host does not wait for its own game to be over: the update of the result is enough.
    ansel.on("change", ({ update }) => {
      if (update?.kind === "result" && runs.length < 6) void ansel.ask("room.again", {});
    });
    const runs: string[] = [];
    await ansel.start();
    while (runs.length < 6) {
      const isNew = (run: string | undefined) => run !== undefined && !runs.includes(run);
      await Promise.all(
        [ansel, brisa].map((player) => player.until(({ room: one }) => isNew(one?.travel?.address && one.run))),
      );
      const passes = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
      runs.push(passes[0].run);
      const aboard = await Promise.all(passes.map((pass) => goAboard(pass)));
      const over = await Promise.all(aboard.map((one) => one.play()));
      expect(over[0]).toEqual(over[1]);
    }
    expect(new Set(runs).size).toBe(6);
    const { instances } = await service.operator.instances({ ended: true });
    expect(instances).toHaveLength(1);
  });
});
