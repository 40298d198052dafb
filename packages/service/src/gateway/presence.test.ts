import { afterEach, describe, expect, it, vi } from "vitest";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);
afterEach(() => vi.restoreAllMocks());

const withSilence = (silenceMs: number) =>
  testConfig(undefined, (config) => ({
    ...config,
    players: { ...config.players, heartbeatEveryMs: 100, silenceMs },
  }));
const lively = withSilence(10_000);

describe("latency", () => {
  it("is measured by echo and shown to the room, to the directory and to operators", async () => {
    const service = await startTestService(lively);
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom();
    await brisa.joinRoom({ code: room.code });
    const isMeasured = ({
      latencyMs,
      jitterMs,
    }: {
      latencyMs?: number | undefined;
      jitterMs?: number | undefined;
    } = {}) => typeof latencyMs === "number" && latencyMs >= 0 && typeof jitterMs === "number";
    await brisa.until((state) => isMeasured(state.room?.members[ansel.id]));
    await ansel.until((state) => isMeasured(state.room?.members[brisa.id]));
    const { players } = await service.operator.players();
    expect(players.every(isMeasured)).toBe(true);
    const corin = await service.player("Corin");
    expect((await corin.listRooms({ sort: "latency" })).rooms[0]?.latencyMs).toBeTypeOf("number");
  });
});

describe("a wall clock that is set", () => {
  it.each([3_600_000, -3_600_000])("by %i ms drops nobody, and keeps no lost player for longer", async (byMs) => {
    // An hour is longer than any silence; a busy computer is silent for a second now and then.
    const service = await startTestService(withSilence(5_000));
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const lost: unknown[] = [];
    ansel.on("lost", (event) => lost.push(event));
    const now = Date.now;
    vi.spyOn(Date, "now").mockImplementation(() => now() + byMs);
    // The grace of a lobby is 3 s; the harbor's clock goes at half its pace at the slowest.
    brisa.drop();
    await ansel.until((state) => state.lobby?.players?.[brisa.id] === undefined, 12_000);
    expect(lost).toEqual([]);
    expect(ansel.isConnected).toBe(true);
  });
});

describe("the words of an operator", () => {
  it("reach one player, a room, a lobby, everybody, and say how many that was", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom();
    const heard: string[] = [];
    const all = new Promise<void>((resolve) => {
      ansel.on("notice", ({ to, text }) => heard.push(`${to}: ${text}`) === 4 && resolve());
    });
    const { operator } = service;
    expect(await operator.notifyPlayer(ansel.id, "one")).toEqual({ delivered: 1 });
    expect(await operator.notifyRoom(room.code, "two")).toEqual({ delivered: 1 });
    expect(await operator.notifyAll("three", "quayside")).toEqual({ delivered: 2 });
    expect(await operator.notifyAll("four")).toEqual({ delivered: 2 });
    await all;
    expect(heard).toEqual(["player: one", "room: two", "lobby: three", "harbor: four"]);
    await expect(operator.notifyAll("five", "nowhere")).rejects.toMatchObject({ code: "lobby-unknown" });
    await expect(operator.notifyPlayer("p_000000000000", "six")).rejects.toMatchObject({ code: "player-unknown" });
    await expect(operator.notifyRoom("CCCCC", "seven")).rejects.toMatchObject({ code: "room-unknown" });
    await expect(operator.notifyAll(" ")).rejects.toMatchObject({ code: "request-invalid" });
    brisa.drop();
  });
});

describe("an operator over HTTP", () => {
  it("bans, lifts the ban, and is told in full why somebody may not join", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom();
    const { operator } = service;
    await operator.banFromRoom(room.code, brisa.id, "cheating");
    await expect(brisa.joinRoom({ code: room.code })).rejects.toMatchObject({ code: "banned-from-room" });
    const explained = await operator.explainJoin(room.code, brisa.id);
    expect(explained).toMatchObject({ canJoin: false, code: "banned-from-room" });
    await operator.unbanFromRoom(room.code, brisa.id);
    expect(await operator.explainJoin(room.id, brisa.id)).toMatchObject({ canJoin: true, against: [] });
    await expect(operator.explainJoin("CCCCC", brisa.id)).rejects.toMatchObject({ code: "room-unknown" });
    await expect(operator.explainJoin(room.id, "p_000000000000")).rejects.toMatchObject({ code: "player-unknown" });
    await expect(operator.setResult(room.id, { standings: [] })).rejects.toMatchObject({ code: "request-invalid" });
    const rows = [{ player: brisa.id, score: 1 }];
    await expect(operator.setResult(room.id, { standings: rows })).rejects.toMatchObject({ code: "result-not-yours" });
  });
});

describe("relaying to a side", () => {
  it("reaches its members alone, and names the sides when there is none of that name", async () => {
    const config = testConfig(undefined, (one) => {
      const { crews } = one.roomKinds;
      const sides = { names: ["north", "south"], max: 2, apart: null };
      return crews ? { ...one, roomKinds: { crews: { ...crews, sides } } } : one;
    });
    const service = await startTestService(config);
    const players = await Promise.all(["Ansel", "Brisa", "Corin", "Dovie"].map((name) => service.player(name)));
    const [ansel, ...others] = players;
    const opened = await ansel?.openRoom();
    for (const other of others) await other.joinRoom({ code: opened?.room.code ?? "" });
    const heard: string[] = [];
    for (const player of players) player.on("relayed", () => heard.push(player.name));
    expect(await ansel?.relay({ go: "left" }, { side: "south" })).toEqual({ delivered: 2 });
    expect(await ansel?.relay({ go: "right" }, "all")).toEqual({ delivered: 4 });
    await expect(ansel?.relay({}, { side: "west" })).rejects.toMatchObject({ code: "side-unknown" });
    expect(heard.slice(0, 2).sort()).toEqual(["Brisa", "Dovie"]);
  });
});
