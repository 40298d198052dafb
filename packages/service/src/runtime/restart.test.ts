import { afterEach, describe, expect, it } from "vitest";
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

describe("a restart of the service", () => {
  it("in the middle of getting ready brings the room back, and both members resume by themselves", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom({ capacity: 2, name: "Before the tide" });
    await brisa.joinRoom({ room: room.id });
    await ansel.pickLevel("brine-gate");
    await ansel.setReady(true);
    const before = ansel.state.room;
    const resumed = Promise.all(
      [ansel, brisa].map((player) => new Promise((resolve) => player.on("resumed", resolve))),
    );
    const again = await service.restart();
    await resumed;
    const everybodyHere = await ansel.until((state) =>
      Object.values(state.room?.members ?? {}).every((member) => member.presence === "here"),
    );
    const { revision: _then, ...asItWas } = before ?? { revision: 0 };
    expect(everybodyHere.room).toMatchObject(asItWas);
    await brisa.setReady(true);
    await ansel.start();
    await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect((await again.operator.room(room.code)).phase).toBe("travelling");
  });

  it("in the middle of a run leaves the instance running, and the run ends as if nothing had been", async () => {
    const service = await startTestService(testConfig(), { stopInstances: false });
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    await Promise.all([a, b].map(({ address, pass }) => sayToInstance(address, pass)));
    await ansel.until((state) => state.room?.phase === "playing");
    const { pid = 0 } = await service.operator.instance(a.instance ?? "");
    const resumed = Promise.all(
      [ansel, brisa].map((player) => new Promise((resolve) => player.on("resumed", resolve))),
    );
    const again = await service.restart();
    await resumed;
    expect(isAlive(pid)).toBe(true);
    expect((await again.operator.instance(a.instance ?? "")).pid).toBe(pid);
    expect(await sayToInstance(a.address, "report")).toMatchObject({ status: 200 });
    await brisa.until((state) => state.room?.result !== undefined && state.room.phase === "gathering");
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const { instances } = await untilState(
      again.operator,
      (state) => state.instances[a.instance ?? ""]?.exit !== undefined,
    );
    // It is no child of the new service, which therefore did not see the code.
    expect(instances[a.instance ?? ""]).toMatchObject({ state: "ended", exit: {} });
    expect(isAlive(pid)).toBe(false);
  });

  it("forgets nobody's codes: a room opened afterwards gets another one", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const again = await service.restart();
    const brisa = await again.player("Brisa");
    expect((await brisa.openRoom()).room.code).not.toBe(room.code);
    expect((await again.operator.rooms()).rooms).toHaveLength(2);
  });

  it("tells players to come back later, with the code for it and how often to try", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel", { reconnect: false });
    const ended = new Promise<{ problem: object | undefined }>((resolve) => ansel.on("ended", resolve));
    await service.stop();
    expect((await ended).problem).toMatchObject({ code: "shutting-down", retryEveryMs: 500 });
  });
});
