import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const twoLobbies = () =>
  testConfig(undefined, (one) => {
    const [quayside] = Object.values(one.lobbies);
    return quayside ? { ...one, lobbies: { ...one.lobbies, "far-light": { ...quayside, title: "Far Light" } } } : one;
  });

describe("lobbies", () => {
  it("are listed, and changed without another identity; the directory is followed in the new one", async () => {
    const service = await startTestService(twoLobbies());
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa", { lobby: "far-light" })];
    expect((await ansel.lobbies.list()).lobbies.map(({ id, title }) => [id, title])).toEqual([
      ["quayside", "Quayside"],
      ["far-light", "Far Light"],
    ]);
    await brisa.openRoom({ name: "Slack water" });
    await ansel.followRooms();
    expect(ansel.directory?.total).toBe(0);
    const { lobby } = await ansel.lobbies.switchTo("far-light");
    expect(lobby.players?.[ansel.id]).toMatchObject({ name: "Ansel" });
    expect(ansel.state.lobby?.id).toBe("far-light");
    expect(ansel.directory?.rooms.map(({ name }) => name)).toEqual(["Slack water"]);
    expect(await service.operator.player(ansel.id)).toMatchObject({ lobby: "far-light" });
    await expect(ansel.lobbies.switchTo("nowhere")).rejects.toMatchObject({ problem: { code: "lobby-unknown" } });
  });

  it("are listed for operators, who find who is there and move a player to another one, which is told so", async () => {
    const { operator, player } = await startTestService(twoLobbies());
    const [ansel, brisa] = [await player("Ansel"), await player("Brisa", { lobby: "far-light" })];
    await brisa.openRoom({ name: "Slack water" });
    await ansel.followRooms();
    expect((await operator.lobbies()).lobbies).toMatchObject([
      { id: "quayside", players: 1, rooms: 0 },
      { id: "far-light", players: 0, rooms: 1, inRooms: 1 },
    ]);
    expect((await operator.levels()).levels).toMatchObject([{ id: "brine-gate", min: 1, max: 6 }]);
    const found = (await operator.players({ lobby: "far-light", presence: "here" })).players;
    expect(found.map(({ name }) => name)).toEqual(["Brisa"]);
    const told = new Promise((resolve) => ansel.on("intoLobby", resolve));
    const listed = new Promise<void>((resolve) => ansel.on("directory", ({ total }) => total === 1 && resolve()));
    expect(await operator.moveToLobby(ansel.id, "far-light")).toMatchObject({ name: "Ansel", lobby: "far-light" });
    expect(await told).toMatchObject({ lobby: { id: "far-light" } });
    expect(ansel.state.lobby?.id).toBe("far-light");
    await listed;
    const codes = [
      [brisa.id, "quayside", "already-in-room"],
      [ansel.id, "nowhere", "lobby-unknown"],
      ["p_0000000000aa", "quayside", "player-unknown"],
    ] as const;
    for (const [id, lobby, code] of codes) {
      await expect(operator.moveToLobby(id, lobby)).rejects.toMatchObject({ problem: { code } });
    }
  });
});
