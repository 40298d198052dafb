import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

describe("lobbies", () => {
  it("are listed, and changed without another identity; the directory is followed in the new one", async () => {
    const config = testConfig(undefined, (one) => {
      const [quayside] = Object.values(one.lobbies);
      return quayside ? { ...one, lobbies: { ...one.lobbies, "far-light": { ...quayside, title: "Far Light" } } } : one;
    });
    const service = await startTestService(config);
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
});
