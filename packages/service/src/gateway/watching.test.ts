import { afterEach, describe, expect, it } from "vitest";
import type { Config } from "../config/schema.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

describe("a spectator", () => {
  it("looks on in a full room, hears what is relayed to all, and becomes a member when one leaves", async () => {
    const service = await startTestService(withSpectators(0));
    const [ansel, brisa, corin] = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    if (!ansel || !brisa || !corin) throw new Error("nobody is here");
    const { room } = await ansel.openRoom({ capacity: 2 });
    await brisa.joinRoom({ room: room.id });
    await expect(corin.joinRoom({ code: room.code })).rejects.toMatchObject({ problem: { code: "room-full" } });
    const { room: watched } = await corin.watchRoom({ code: room.code });
    expect(watched.spectators?.players[corin.id]).toMatchObject({ name: "Corin", presence: "here" });
    await ansel.until((state) => state.room?.spectators?.players[corin.id] !== undefined);
    const heard = new Promise((resolve) => corin.on("relayed", resolve));
    expect(await ansel.relay({ text: "hello" }, "others")).toEqual({ delivered: 2 });
    expect(await heard).toMatchObject({ from: ansel.id, body: { text: "hello" } });
    await expect(corin.relay("no")).rejects.toMatchObject({ problem: { code: "only-watching" } });
    await expect(corin.setReady(true)).rejects.toMatchObject({ problem: { code: "only-watching" } });
    await brisa.leaveRoom();
    await corin.joinRoom({ room: room.id });
    expect(corin.state.room?.members[corin.id]).toMatchObject({ place: 1 });
    expect(corin.state.room?.spectators?.players).toEqual({});
    await brisa.watchRoom({ room: room.id });
    await corin.until((state) => state.room?.spectators?.players[brisa.id] !== undefined);
    await corin.watchRoom({ room: room.id });
    await ansel.until((state) => Object.keys(state.room?.members ?? {}).length === 1);
    expect(corin.state.room?.revision).toBe(ansel.state.room?.revision);
  });

  it("is shown nothing ahead of its delay, and looks on again after a restart of the service", async () => {
    let service = await startTestService(withSpectators(5_000));
    const [ansel, corin] = [await service.player("Ansel"), await service.player("Corin")];
    const { room } = await ansel.openRoom({ capacity: 2 });
    await corin.watchRoom({ room: room.id });
    expect(await ansel.relay({ text: "hello" })).toEqual({ delivered: 0 });
    const resumed = Promise.all([ansel, corin].map((one) => new Promise((resolve) => one.on("resumed", resolve))));
    service = await service.restart();
    await resumed;
    expect(corin.state.room?.spectators).toMatchObject({
      delayMs: 5_000,
      players: { [corin.id]: { presence: "here" } },
    });
    const out = new Promise((resolve) => corin.on("outOfRoom", resolve));
    await service.operator.kick(ansel.id);
    expect(await out).toMatchObject({ cause: "closed" });
    expect(corin.state.lobby?.id).toBeDefined();
  });
});

const withSpectators = (delayMs: number): Config =>
  testConfig(undefined, (config) => {
    const roomKinds = Object.entries(config.roomKinds).map(([id, kind]) => [
      id,
      { ...kind, spectators: { max: 4, delayMs } },
    ]);
    return { ...config, roomKinds: Object.fromEntries(roomKinds) };
  });
