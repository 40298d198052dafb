import { readdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { WebSocket } from "ws";
import type { Config } from "../../config/schema.ts";
import { readAgentToken } from "../../serve.ts";
import { endAgents, farAway, startAgent } from "../../testing/agents.ts";
import {
  isAlive,
  sayToInstance,
  startTestService,
  startVoyage,
  type TestService,
  temporaryFolder,
  untilState,
} from "../../testing/test-service.ts";
import { AGENT_SUBPROTOCOL } from "./frames.ts";

afterEach(endAgents);

const untilThere = async (service: TestService, isThere: boolean) => {
  for (let n = 0; n < 200; n++) {
    const { machines } = await service.operator.machines();
    if (machines.find(({ id }) => id === "far")?.isThere === isThere) return;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error(`the machine was never ${isThere ? "there" : "away"}`);
};

describe("a machine with an agent", () => {
  it("runs instances at its own address; players board there, and its output is read from here", async () => {
    const service = await startTestService(farAway());
    const { data } = await startAgent(service);
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(a.address.host).toBe("127.0.0.2");
    await sayToInstance(a.address, a.pass);
    await sayToInstance(b.address, b.pass);
    await ansel.until((state) => state.room?.phase === "playing");
    const id = a.instance ?? "";
    expect(await service.operator.instance(id)).toMatchObject({ machine: "far", region: "far-light", state: "busy" });
    expect(readdirSync(join(data, "instances"))).toEqual([id]);
    let output = "";
    for await (const text of service.operator.output(id)) output += text;
    expect(output).toContain(`mode good on port ${a.address.port}`);
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const { instances } = await untilState(service.operator, (state) => state.instances[id]?.exit !== undefined);
    expect(instances[id]).toMatchObject({ state: "ended", exit: { code: 0 } });
  });

  it("tells what is free there; what is cordoned gets nothing new, and each instance says why it is where it is", async () => {
    const config = farAway();
    const { sluice } = config.pools;
    const { far } = config.machines;
    if (sluice === undefined || far === undefined) throw new Error("no pool, or no machine");
    const service = await startTestService({
      ...config,
      machines: { ...config.machines, near: { ...far, host: "127.0.0.3", region: "north-quay" } },
      pools: { sluice: { ...sluice, machines: ["far", "near"] } },
    });
    await startAgent(service);
    await startAgent(service, undefined, undefined, "near");
    await vi.waitUntil(
      async () => {
        const { machines } = await service.operator.machines();
        return (
          machines.filter(({ cpus, memoryFreeMb }) => cpus !== undefined && memoryFreeMb !== undefined).length === 2
        );
      },
      { timeout: 30_000 },
    );
    const cordoned = await service.operator.setMachineMode("far", { mode: "cordoned", reason: "new disk" });
    expect(cordoned).toMatchObject({ mode: "cordoned", why: "cordoned by an operator: new disk", running: 0 });
    const { ansel } = await startVoyage(service);
    const pass = await ansel.nextPass();
    expect(pass.address.host).toBe("127.0.0.3");
    const { text } = await service.operator.explainInstance(pass.instance ?? "");
    expect(text.join(" ")).toMatch(
      /It is on near in north-quay: the most free, 10 of 10 places, .*\. Not on far \(is cordoned\)\./,
    );
    expect(await service.operator.setMachineMode("far", { mode: "open" })).not.toHaveProperty("mode");
  });

  it("is drained when it is about to be taken away, by its own word: nothing new, and what plays has until then", async () => {
    const service = await startTestService(farAway());
    const sign = join(temporaryFolder(), "taken-away");
    await startAgent(service, undefined, undefined, "far", {
      notice: `test -e ${sign} && echo "40 the price has risen"`,
    });
    const { ansel } = await startVoyage(service);
    await ansel.nextPass();
    expect((await service.operator.machines()).machines.find(({ id }) => id === "far")).not.toHaveProperty("mode");
    writeFileSync(sign, "");
    const far = await vi.waitUntil(
      async () => (await service.operator.machines()).machines.find(({ id, mode }) => id === "far" && mode),
      { timeout: 30_000 },
    );
    expect(far).toMatchObject({
      mode: "draining",
      why: "is taken away in 40 s, by its own word: the price has risen",
      running: 1,
    });
    expect((far?.untilMs ?? 0) - Date.now()).toBeLessThanOrEqual(40_000);
  });

  it("is away without one: a room is told so, and nothing is started", async () => {
    const service = await startTestService(farAway());
    const { ansel } = await startVoyage(service);
    const { room } = await ansel.until((state) => state.room?.setback !== undefined);
    expect(room?.setback?.detail).toContain("None of the machines far is there; start `yh agent` on one of them.");
  });

  it("may lose its agent: the match goes on, and the instance is known again when the agent is back", async () => {
    const service = await startTestService(farAway());
    const agent = await startAgent(service);
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    await sayToInstance(a.address, a.pass);
    const id = a.instance ?? "";
    const { pid = 0 } = await service.operator.instance(id);
    await agent.stop();
    await untilThere(service, false);
    expect(isAlive(pid)).toBe(true);
    let output = "";
    for await (const text of service.operator.output(id, { stream: "out" })) output += text;
    expect(output).toBe("(the machine's agent is away; its output can be read when it is back)\n");
    // The instance speaks to the service by itself: boarding and result need no agent.
    await sayToInstance(b.address, b.pass);
    await ansel.until((state) => state.room?.phase === "playing");
    await startAgent(service, agent.data);
    await untilThere(service, true);
    expect(await sayToInstance(a.address, "report")).toMatchObject({ status: 200 });
    await ansel.until((state) => state.room?.result !== undefined);
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const { instances } = await untilState(service.operator, (state) => state.instances[id]?.exit !== undefined);
    expect(instances[id]?.state).toBe("ended");
    expect(isAlive(pid)).toBe(false);
  });

  it("comes back by itself after the service was started anew, with what runs on it", async () => {
    let service = await startTestService(farAway(), { stopInstances: false });
    await startAgent(service);
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    const id = a.instance ?? "";
    service = await service.restart({ stopInstances: true });
    await untilThere(service, true);
    await sayToInstance(a.address, a.pass);
    await sayToInstance(b.address, b.pass);
    await ansel.until((state) => state.room?.phase === "playing");
    expect((await service.operator.instance(id)).state).toBe("busy");
  });

  it("lets no agent in without the token of a machine that waits for one", async () => {
    const service = await startTestService(farAway());
    await expect(startAgent(service, undefined, "nonsense")).rejects.toMatchObject({
      problem: { code: "agent-token-invalid" },
    });
    const other = await readAgentToken(service.data, "test-harbor", "elsewhere", 1);
    await expect(startAgent(service, undefined, other)).rejects.toMatchObject({ problem: { code: "machine-unknown" } });
  });

  it("lets none in whose token was made before the time that the configuration tells, or has ended", async () => {
    const config = farAway();
    const tokensFrom = new Date(Date.now() + 60_000).toISOString();
    const { far } = config.machines;
    if (!far) throw new Error("no machine");
    const service = await startTestService({
      ...config,
      machines: { ...config.machines, far: { ...far, tokensFrom } },
    });
    await expect(startAgent(service)).rejects.toMatchObject({ problem: { code: "agent-token-invalid" } });
    const open = await startTestService(farAway());
    const ended = await readAgentToken(open.data, "test-harbor", "far", -1);
    await expect(startAgent(open, undefined, ended)).rejects.toMatchObject({
      problem: { code: "agent-token-invalid" },
    });
  });

  it("shows when two use its token in turns", async () => {
    const service = await startTestService(farAway());
    const token = await readAgentToken(service.data, "test-harbor", "far", 1);
    for (const localAddress of ["127.0.0.1", "127.0.0.7", "127.0.0.1"]) {
      const socket = new WebSocket(`${service.url.replace("http", "ws")}/v1/agent`, AGENT_SUBPROTOCOL, {
        headers: { authorization: `Bearer ${token}` },
        localAddress,
      });
      await new Promise((resolve) => socket.once("open", resolve));
      socket.close();
    }
    const { keysInTwoPlaces } = await service.operator.status();
    expect(keysInTwoPlaces).toMatchObject({ count: 1, last: { holder: "far", from: ["127.0.0.7", "127.0.0.1"] } });
    expect((await service.operator.audit()).entries).toMatchObject([
      { actor: { by: "nobody" }, from: "127.0.0.7 127.0.0.1", action: "key-in-two-places", target: "far" },
    ]);
  });

  it("has no say about instances of other machines, and is cut off when it says what nobody knows", async () => {
    const config = farAway();
    const service = await startTestService({
      ...config,
      pools: { sluice: { ...config.pools.sluice, machines: ["here"] } as Config["pools"][string] },
    });
    const { ansel } = await startVoyage(service);
    const { instance = "" } = await ansel.nextPass();
    const token = await readAgentToken(service.data, "test-harbor", "far", 1);
    const socket = new WebSocket(`${service.url.replace("http", "ws")}/v1/agent`, AGENT_SUBPROTOCOL, {
      headers: { authorization: `Bearer ${token}` },
    });
    await new Promise((resolve) => socket.once("open", resolve));
    socket.send(JSON.stringify({ say: "exited", instance, exitCode: 1, signal: null }));
    socket.send(JSON.stringify({ say: "obey" }));
    const code = await new Promise((resolve) => socket.once("close", resolve));
    expect(code).toBe(4400);
    expect((await service.operator.instance(instance)).exit).toBeUndefined();
  });
});
