import { connect } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import type { Config } from "../config/schema.ts";
import { Simulated } from "../config/simulated.ts";
import { endAll, startTestService, startVoyage, testConfig, untilState } from "../testing/test-service.ts";
import { chancesOf } from "./simulated-chance.ts";

afterEach(endAll);

const faraway = (
  change: Partial<ReturnType<typeof Simulated.parse>> = {},
  pool: Partial<Config["pools"][string]> = {},
) =>
  testConfig(undefined, (config) => {
    const { sluice } = config.pools;
    if (!sluice) throw new Error("no pool");
    const simulated = { ...Simulated.parse({ bootMs: 60, lagMs: 80, matchMs: 50 }), ...change };
    const cloud = {
      driver: "simulated",
      region: "far-light",
      host: "127.0.0.1",
      max: 3,
      cpus: null,
      memoryMb: null,
      preemptible: false,
      cgroups: "auto",
      pricePerSecond: null,
      simulated,
    } as const;
    return {
      ...config,
      machines: { ...config.machines, cloud },
      pools: { sluice: { ...sluice, machines: ["cloud"], ...pool } },
    };
  });

function showPass({ host, port }: { host: string; port: number }, pass: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = connect(port, host, () => socket.write(`${pass}\n`));
    socket.once("error", reject).once("data", (data) => resolve(String(data).trim()));
  });
}

describe("a simulated machine", () => {
  it("has instances that come up, take matches, let in who has a pass, and report", async () => {
    const service = await startTestService(faraway());
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(await service.operator.instance(a.instance ?? "")).toMatchObject({ machine: "cloud", region: "far-light" });
    expect(await showPass(a.address, a.pass)).toBe("welcome Ansel");
    expect(await showPass(b.address, b.pass)).toBe("welcome Brisa");
    const { room } = await ansel.until((state) => state.room?.result !== undefined);
    expect(room?.result).toMatchObject({ note: "simulated" });
    expect(room?.result?.standings).toHaveLength(2);
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const id = a.instance ?? "";
    const { instances } = await untilState(service.operator, (state) => state.instances[id]?.exit !== undefined);
    expect(instances[id]).toMatchObject({ state: "ended", exit: { code: 0 } });
  });

  it("has instances that never come up, which fail at their deadline", async () => {
    const service = await startTestService(faraway({ neverUp: 1 }, { bootMs: 200 }));
    const { ansel } = await startVoyage(service);
    const { room } = await ansel.until((state) => state.room?.setback !== undefined);
    expect(room?.setback?.detail).toContain("never announced itself");
  });

  it("takes no more than it holds, and says that it is full", async () => {
    const plan = {
      min: 5,
      spare: 0,
      spareShare: 0,
      cooldownMs: 0,
      reclaimMs: 0,
      giveUpAfter: 6,
      spareIn: {},
      schedule: [],
      costPerHour: null,
    };
    const service = await startTestService(faraway({}, { plan }));
    await untilState(
      service.operator,
      (state) => Object.values(state.instances).filter(({ state }) => state === "open").length === 3,
    );
    const { machines } = await service.operator.machines();
    expect(machines.find(({ id }) => id === "cloud")).toMatchObject({ running: 3, max: 3 });
    expect((await service.operator.explainPool("sluice")).text.join(" ")).toContain("5 wanted");
  });

  it("is the same for the same seed", () => {
    const course = (seed: number) => {
      const chances = chancesOf(Simulated.parse({ seed, neverUp: 0.2, crashes: 0.3 }));
      return Array.from({ length: 50 }, () => [chances.next(), chances.match(3)]);
    };
    expect(course(7)).toEqual(course(7));
    expect(course(7)).not.toEqual(course(8));
  });
});
