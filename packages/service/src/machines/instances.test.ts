import { readFileSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { Agent, request } from "node:http";
import { createServer } from "node:net";
import { BuildSpec, instanceEnvironment } from "@yellow-harbor/protocol";
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

const gone = (id: string) => (state: { instances: Record<string, { exit?: object }> }) =>
  state.instances[id]?.exit !== undefined;

describe("a match under way", () => {
  it("takes in a late joining with a pass of its own, lets go of who leaves, and is ended by the host", async () => {
    const config = testConfig(undefined, (one) => {
      const { crews } = one.roomKinds;
      if (crews === undefined) return one;
      return { ...one, roomKinds: { crews: { ...crews, lateJoining: "open", resultBy: "host", resultsMs: 60_000 } } };
    });
    const service = await startTestService(config);
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom({ capacity: 4 });
    await brisa.joinRoom({ room: room.id });
    await ansel.pickLevel("brine-gate");
    await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
    await ansel.start();
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    await sayToInstance(a.address, a.pass);
    await sayToInstance(a.address, b.pass);
    await ansel.until((state) => state.room?.phase === "playing");

    const corin = await service.player("Corin");
    await corin.joinRoom({ code: room.code });
    const late = await corin.nextPass();
    expect(late).toMatchObject({ run: a.run, instance: a.instance });
    expect(await sayToInstance(late.address, late.pass)).toMatchObject({
      status: 200,
      body: { player: { name: "Corin" } },
    });
    await brisa.leaveRoom();
    expect(await sayToInstance(a.address, "report")).toMatchObject({ body: { code: "result-not-yours" } });
    await ansel.ask("room.set-result", { standings: [ansel, corin].map(({ id }) => ({ player: id, score: 3 })) });
    const { room: after } = await corin.until((state) => state.room?.phase === "results");
    expect(after?.result?.standings.map(({ rank }) => rank)).toEqual([1, 1]);

    const given = ["match-assigned", "expect-player", "release-player", "end-match"];
    await untilState(service.operator, ({ instances }) => instances[a.instance ?? ""]?.state === "open");
    let told: unknown;
    // The instructions travel with the instance's next poll, which comes at once.
    for (let n = 0; n < 50 && (told as string[] | undefined)?.length !== given.length; n++) {
      told = (await sayToInstance(a.address, "instructions")).body.instructions;
    }
    expect(told).toEqual(given);
    await ansel.ask("room.again", {});
    const again = await corin.nextPass();
    expect(again).toMatchObject({ instance: a.instance });
    expect(again.run).not.toBe(a.run);
  });
});

describe("an instance that behaves", () => {
  it("is reached before its address is told, admits exactly the promised, reports once, and exits with its room", async () => {
    // It is given the time that it needs to exit: it must never be signalled.
    const patient = (config: Config): Config => {
      const { sluice } = config.pools;
      return sluice ? { ...config, pools: { sluice: { ...sluice, stopMs: 20_000 } } } : config;
    };
    const service = await startTestService(testConfig("good", patient));
    const { ansel, brisa, room } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(await sayToInstance(a.address, a.pass)).toMatchObject({
      status: 200,
      body: { player: { name: "Ansel", place: 0 }, level: "brine-gate" },
    });
    expect(await sayToInstance(a.address, a.pass)).toMatchObject({ status: 409, body: { code: "pass-used" } });
    expect(await sayToInstance(a.address, "not a pass")).toMatchObject({ status: 403, body: { code: "pass-invalid" } });
    expect(await sayToInstance(a.address, ansel.resumeToken)).toMatchObject({
      status: 403,
      body: { code: "pass-invalid" },
    });
    expect(await sayToInstance(b.address, "report")).toMatchObject({ status: 409, body: { code: "wrong-phase" } });
    expect(await sayToInstance(b.address, b.pass)).toMatchObject({ status: 200, body: { player: { name: "Brisa" } } });
    await ansel.until((state) => state.room?.phase === "playing");
    expect(await sayToInstance(b.address, "report")).toMatchObject({ status: 200 });
    // Whoever did not hear the answer says it again, and is answered the same.
    expect(await sayToInstance(b.address, "report")).toMatchObject({ status: 200 });
    const { room: after } = await brisa.until((state) => state.room?.result !== undefined);
    expect(after?.result?.standings.map(({ player, rank, score }) => [player, rank, score])).toEqual([
      [ansel.id, 1, 10],
      [brisa.id, 2, 9],
    ]);
    const { pid = 0, id } = await service.operator.instance(a.instance ?? "");
    expect(isAlive(pid)).toBe(true);
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const { instances, rooms } = await untilState(service.operator, gone(id));
    expect(instances[id]).toMatchObject({
      state: "ended",
      exit: { code: 0 },
      why: "asked to stop: its room closed; exited with code 0",
    });
    expect(rooms[room.id]).toBeUndefined();
    expect(isAlive(pid)).toBe(false);
  });

  it("does not let in the pass of another instance", async () => {
    const service = await startTestService();
    const one = await startVoyage(service);
    const two = await startVoyage(service);
    const [mine, other] = await Promise.all([one.ansel.nextPass(), two.ansel.nextPass()]);
    expect(mine.instance).not.toBe(other.instance);
    expect(await sayToInstance(mine.address, other.pass)).toMatchObject({
      status: 403,
      body: { code: "pass-foreign" },
    });
    expect(await sayToInstance(other.address, other.pass)).toMatchObject({ status: 200 });
  });

  it("skips a port that somebody else listens on", async () => {
    const config = testConfig();
    const { from } = config.pools.sluice?.ports ?? { from: 0 };
    const squatter = createServer();
    await new Promise<void>((resolve) => squatter.listen(from, resolve));
    try {
      const service = await startTestService(config);
      const { ansel } = await startVoyage(service);
      const { address } = await ansel.nextPass();
      // An instance of the test before may still be letting go of the next one.
      expect(address.port).toBeGreaterThan(from);
      const { instances } = await service.operator.instances({ ended: true });
      expect(instances.find((one) => one.address.port === from)).toMatchObject({
        state: "failed",
        why: expect.stringContaining("is taken (EADDRINUSE)"),
      });
    } finally {
      squatter.close();
    }
  });
});

describe("an instance that misbehaves", () => {
  it.each([
    ["crash", "no-instance", "exited with code 3"],
    ["mute", "no-instance", "never announced itself"],
    ["closed", "no-instance", "announced itself but its port was never reached"],
  ])("(%s) brings the room back to gathering after the last attempt, with the reason", async (mode, code, reason) => {
    const service = await startTestService(
      testConfig(mode, (config) => ({ ...config, travel: { ...config.travel, attempts: 2 } })),
    );
    const { ansel } = await startVoyage(service);
    const { room } = await ansel.until((state) => state.room?.setback !== undefined, 40_000);
    expect(room).toMatchObject({ phase: "gathering", setback: { code } });
    expect(room?.setback?.detail).toContain(reason);
    const { instances } = await service.operator.instances({ ended: true });
    // A port that is still somebody's counts as no attempt.
    const tried = instances.filter(({ why }) => !why.includes("is taken"));
    expect(tried.map(({ state }) => state)).toEqual(["failed", "failed"]);
    const state = await untilState(service.operator, ({ instances: live }) =>
      Object.values(live).every((one) => one.exit !== undefined),
    );
    // One whose port was somebody else's was never started, and has no process.
    const pids = Object.values(state.instances).flatMap(({ pid }) => pid ?? []);
    expect(pids.filter(isAlive)).toEqual([]);
  });

  it("(crash) leaves its output and exit code to be read", async () => {
    const service = await startTestService(testConfig("crash"));
    const { ansel } = await startVoyage(service);
    await ansel.until((state) => state.room?.setback !== undefined);
    const { instances } = await service.operator.instances({ ended: true });
    const id = instances[0]?.id ?? "";
    expect(instances[0]).toMatchObject({ exit: { code: 3 } });
    let output = "";
    for await (const text of service.operator.output(id)) output += text;
    expect(output).toContain("mode crash on port");
    expect(output).toContain("cannot find the harbour");
    expect(await readFile(`${service.data}/instances/${id}/errors.log`, "utf8")).toBe("cannot find the harbour\n");
  });

  it("(deaf) is signalled, then killed, when it does not stop", async () => {
    const service = await startTestService(testConfig("deaf"));
    const { ansel, brisa } = await startVoyage(service);
    const { instance = "" } = await ansel.nextPass();
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const { instances } = await untilState(service.operator, gone(instance));
    expect(instances[instance]).toMatchObject({ state: "ended", exit: { signal: "SIGKILL" } });
    let output = "";
    for await (const text of service.operator.output(instance)) output += text;
    expect(output).toContain("ignoring SIGTERM");
  });

  it("(dies) with a match is a setback for its room, not a result", async () => {
    const service = await startTestService(testConfig("dies"));
    const { ansel } = await startVoyage(service);
    const { room } = await ansel.until((state) => state.room?.setback !== undefined);
    expect(room).toMatchObject({
      phase: "gathering",
      setback: { code: expect.stringMatching(/no-instance|instance-lost/) },
    });
    expect(room?.setback?.detail).toContain("exited with code 9");
  });

  it("(a program that is not there) is told by name", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({
        ...config,
        builds: { plain: BuildSpec.parse({ command: "./no-such-server" }) },
      })),
    );
    const { ansel } = await startVoyage(service);
    const { room } = await ansel.until((state) => state.room?.setback !== undefined);
    expect(room?.setback?.detail).toContain("./no-such-server");
  });

  it("may poll on one connection for ever: no poll leaves anything behind on it", async () => {
    const service = await startTestService();
    const { ansel } = await startVoyage(service);
    const { instance = "" } = await ansel.nextPass();
    const { pid } = await service.operator.instance(instance);
    const environment = readFileSync(`/proc/${pid}/environ`, "utf8").split("\0");
    const key = environment.find((line) => line.startsWith(`${instanceEnvironment.key}=`))?.split("=")[1];
    const warnings: Error[] = [];
    const hear = (warning: Error) => void warnings.push(warning);
    process.on("warning", hear);
    const agent = new Agent({ keepAlive: true, maxSockets: 1 });
    for (let n = 0; n < 15; n++) {
      const status = await new Promise((resolve, reject) => {
        const headers = { "content-type": "application/json", authorization: `Bearer ${key}` };
        const asking = request(`${service.url}/v1/instance/poll`, { agent, method: "POST", headers }, (response) => {
          response.resume().once("end", () => resolve(response.statusCode));
        });
        asking.once("error", reject).end(JSON.stringify({ acknowledged: 1, waitMs: 1 }));
      });
      expect(status).toBe(200);
    }
    agent.destroy();
    process.off("warning", hear);
    expect(warnings).toEqual([]);
  });

  it("cannot speak without its key", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    for (const authorization of [undefined, "Bearer nonsense", `Bearer ${ansel.resumeToken}`]) {
      const response = await fetch(`${service.url}/v1/instance/poll`, {
        method: "POST",
        headers: { "content-type": "application/json", ...(authorization && { authorization }) },
        body: JSON.stringify({ acknowledged: 0 }),
      });
      expect(response.status).toBe(401);
      expect(await response.json()).toMatchObject({ code: "instance-key-invalid" });
    }
  });
});
