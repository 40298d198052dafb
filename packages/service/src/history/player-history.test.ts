import { afterEach, describe, expect, it } from "vitest";
import { endAll, sayToInstance, startTestService, startVoyage, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const textsOf = ({ story }: { story: readonly { text: string }[] }) => story.map(({ text }) => text);

describe("what happened to a player", () => {
  it("is told in order: what it did, what happened to its room without naming it, and not what others did elsewhere", async () => {
    const service = await startTestService();
    const corin = await service.player("Corin");
    await corin.openRoom();
    const { ansel, brisa } = await startVoyage(service);
    const passes = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of passes) await sayToInstance(address, pass);
    await ansel.until(({ room }) => room?.phase === "playing");
    await brisa.leaveRoom();
    await ansel.until(({ room }) => Object.keys(room?.members ?? {}).length === 1);
    const told = await service.operator.playerHistory(brisa.id);
    const texts = textsOf(told).join("\n");
    expect(told.player).toBe(brisa.id);
    expect(texts).toMatch(/Brisa[^\n]*\n[\s\S]*(joins|joined)[\s\S]*play/);
    expect(texts).not.toContain("Corin");
    expect(told.story.map(({ kind }) => kind)).toEqual(
      expect.arrayContaining(["player.connected", "room.joined", "room.started", "room.playing", "room.departed"]),
    );
    expect(told.story.map(({ seq }) => seq)).toEqual(told.story.map(({ seq }) => seq).sort((a, b) => a - b));
    // Ansel goes on in the room; what happens there is no longer Brisa's.
    const before = told.story.at(-1)?.seq ?? 0;
    await ansel.leave();
    await expect.poll(async () => (await service.operator.players()).players.length, { timeout: 30_000 }).toBe(2);
    expect((await service.operator.playerHistory(brisa.id)).story.at(-1)?.seq).toBe(before);
    // Who has left is told of by the id.
    expect(textsOf(await service.operator.playerHistory(ansel.id)).at(-1)).toContain("Ansel");
  });

  it("comes in pages, each with where the one before it ends", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    await ansel.openRoom();
    for (const isReady of [true, false, true, false, true]) await ansel.setReady(isReady);
    const all = await service.operator.playerHistory(ansel.id);
    const paged: number[] = [];
    let before: number | undefined;
    do {
      const page = await service.operator.playerHistory(ansel.id, {
        story: 2,
        ...(before !== undefined && { before }),
      });
      paged.unshift(...page.story.map(({ seq }) => seq));
      before = page.older;
    } while (before !== undefined);
    expect(paged).toEqual(all.story.map(({ seq }) => seq));
    expect(paged.length).toBeGreaterThan(6);
  });

  it("has what it was refused lately, the newest first, and the same again and again as one", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, players: { ...config.players, framesPerSecond: 1_000 } })),
    );
    const ansel = await service.player("Ansel");
    const refusal = (asked: Promise<unknown>) =>
      asked.then(() => undefined).catch(({ code }: { code: string }) => code);
    await refusal(ansel.joinRoom({ room: "r_000000000000" }));
    await ansel.openRoom();
    for (let n = 0; n < 3; n++) expect(await refusal(ansel.start())).toBe("start-not-possible");
    const { refusals } = await service.operator.playerHistory(ansel.id);
    expect(refusals).toMatchObject([
      { ask: "room.start", code: "start-not-possible", times: 3 },
      { ask: "room.join", code: "room-unknown", times: 1, detail: expect.stringContaining("r_000000000000") },
    ]);
    await expect(service.operator.playerHistory("p_000000000000")).rejects.toMatchObject({ code: "player-unknown" });
  });
});
