import { udpRoundTrips } from "@yellow-harbor/reach";
import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { startEchoStation } from "../echo/station.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
  await endAll();
});

const station = async () => {
  const found = await startEchoStation({ port: 0, host: "127.0.0.1" });
  closing.push(() => found.close());
  return found;
};

const withRegions = (echo: readonly string[], hostEcho: boolean) =>
  testConfig("good", (one) =>
    Config.parse({
      ...one,
      regions: { "north-quay": { echo }, "far-light": {} },
      roomKinds: { crews: { ...one.roomKinds["crews"], hostEcho } },
    }),
  );

describe("browsing rooms", () => {
  it("measures hosts' worlds and regions, keeps the nearest in front, and hears of those that come and go", async () => {
    const [north, world] = [await station(), await station()];
    const service = await startTestService(withRegions([`udp://127.0.0.1:${north.port}`], true));
    const [ansel, brisa, corin, seeker] = await Promise.all(
      ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => service.player(name, { udpEchoes: udpRoundTrips })),
    );
    if (!ansel || !brisa || !corin || !seeker) throw new Error("somebody is missing");
    const unmeasured = (await ansel.openRoom({ name: "Nowhere in particular", region: "far-light" })).room;
    const inRegion = (await brisa.openRoom({ name: "In the north", region: "north-quay" })).room;
    const hosted = (await corin.openRoom({ name: "At Corin's" })).room;
    expect(inRegion.region).toBe("north-quay");
    await corin.direct.tellEcho(world.port);
    const until = (fits: () => boolean) =>
      new Promise<void>((resolve) => {
        const off = seeker.on("browsed", () => {
          if (!fits()) return;
          off();
          resolve();
        });
        if (fits()) resolve();
      });
    await seeker.browser.begin({}, { againMs: 200 });
    await until(() => seeker.browser.rooms.filter(({ ownLatencyMs }) => ownLatencyMs !== undefined).length === 2);
    const { rooms } = seeker.browser;
    expect(rooms.at(-1)?.id).toBe(unmeasured.id);
    expect(rooms.find(({ id }) => id === hosted.id)?.echo).toBe(`udp://127.0.0.1:${world.port}`);
    const [first, second] = rooms;
    expect(first?.ownLatencyMs ?? 0).toBeLessThanOrEqual(second?.ownLatencyMs ?? -1);
    expect((await seeker.listRooms({ filter: { region: "north-quay" } })).rooms.map(({ id }) => id)).toEqual([
      inRegion.id,
    ]);
    // Whoever becomes host is somewhere else.
    await brisa.leaveRoom();
    await brisa.joinRoom({ room: hosted.id });
    await corin.handOver(brisa.id);
    await until(() => seeker.browser.rooms.find(({ id }) => id === hosted.id)?.echo === undefined);
    expect(seeker.browser.rooms.find(({ id }) => id === hosted.id)?.ownLatencyMs).toBeUndefined();
    await seeker.browser.end();
    expect(seeker.browser.rooms).toEqual([]);
  });

  it("is told of no host's address but its own, by the host alone, and only where the room kind lets it", async () => {
    const service = await startTestService(withRegions([], false));
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ room: room.id });
    await expect(ansel.direct.tellEcho(7_700)).rejects.toMatchObject({ code: "echo-off" });
    await expect(brisa.direct.tellEcho(7_700)).rejects.toMatchObject({ code: "not-host" });
    await expect(ansel.direct.tellEcho(0)).rejects.toMatchObject({ code: "request-invalid" });
    await expect(ansel.ask("room.tell-echo", { port: 7_700, host: "192.0.2.9" } as never)).rejects.toMatchObject({
      code: "request-invalid",
    });
    await expect(ansel.openRoom({ region: "nowhere", move: true })).rejects.toMatchObject({ code: "region-unknown" });
    await expect(service.operator.openRoom({ lobby: "quayside", region: "nowhere" })).rejects.toMatchObject({
      problem: { code: "region-unknown", accepted: ["north-quay", "far-light"] },
    });
  });
});
