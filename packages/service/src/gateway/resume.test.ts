import { setTimeout as wait } from "node:timers/promises";
import fc from "fast-check";
import { afterEach, describe, expect, it } from "vitest";
import { type CuttingProxy, startCuttingProxy } from "../testing/cutting-proxy.ts";
import { rawClient } from "../testing/raw-client.ts";
import { endAll, startTestService } from "../testing/test-service.ts";

let proxy: CuttingProxy | undefined;
afterEach(async () => {
  proxy?.close();
  await endAll();
});

const SEED = Number(process.env.SEED ?? Date.now() % 1_000_000);

/** Numbers from a seed, so that a failure can be played again. */
const numbersOf = (seed: number) => {
  const drawn = fc.sample(fc.integer({ min: 900, max: 9_000 }), { numRuns: 500, seed });
  let at = 0;
  return () => drawn[at++ % drawn.length] ?? 1_000;
};

describe("a player whose connection is cut in the middle of frames", () => {
  it(`ends with the same state, without a gap and without a repeat (SEED=${SEED})`, async () => {
    const service = await startTestService();
    proxy = await startCuttingProxy(service.url, numbersOf(SEED));
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();

    const brisa = await joinThroughCuts(proxy.url, room.code);
    let continued = 0;
    brisa.on("resumed", ({ continues }) => {
      continued += continues ? 1 : 0;
    });
    let held = brisa.state.room?.revision ?? 0;
    const jumps: string[] = [];
    brisa.on("change", ({ state, update }) => {
      const revision = state.room?.revision ?? 0;
      // Update goes on by exactly one; a whole state never goes back.
      if (update ? revision !== held + 1 : revision < held) jumps.push(`${held} to ${revision} by ${update?.kind}`);
      held = revision;
    });

    for (let n = 0; n < 400; n++) {
      await ansel.board.set(`mark.${n % 40}`, { n, text: "x".repeat(n % 80) }, { onLeave: "keep" });
      if (n % 40 === 0) await wait(30);
    }
    proxy.heal();
    const last = ansel.state.room?.board["mark.39"]?.revision;
    await brisa.until((state) => state.room?.board["mark.39"]?.revision === last);
    await brisa.until(() => brisa.isConnected);
    await ansel.until((state) => state.room?.members[brisa.id]?.presence === "here");
    await brisa.until((state) => state.room?.revision === ansel.state.room?.revision);

    expect(brisa.state.room).toEqual(ansel.state.room);
    expect(jumps).toEqual([]);
    expect(proxy.cuts()).toBeGreaterThan(5);
    expect(continued).toBeGreaterThan(0);
    brisa.drop();
  });

  async function joinThroughCuts(url: string, code: string) {
    const { PlayerClient } = await import("@yellow-harbor/client");
    for (let attempt = 1; ; attempt++) {
      try {
        const reconnect = { firstMs: 5, maxMs: 20, attempts: 200 };
        const brisa = await PlayerClient.connect({ url, name: "Brisa", build: "game-1", strict: true, reconnect });
        await joinOnce(brisa, code);
        return brisa;
      } catch (error) {
        if (attempt === 20) throw error;
      }
    }
  }

  /** The answer may be lost on the way; then the welcome after the resume shows that one is in. */
  async function joinOnce(
    brisa: Awaited<ReturnType<typeof import("@yellow-harbor/client").PlayerClient.connect>>,
    code: string,
  ) {
    for (let attempt = 1; brisa.state.room === undefined; attempt++) {
      await brisa.joinRoom({ code }).catch((error: unknown) => {
        if (attempt === 20) throw error;
      });
      if (brisa.state.room === undefined) await wait(20);
    }
  }
});

describe("a resume", () => {
  it("tells what happened meanwhile: kicked from a room, its end, a search that is over", async () => {
    const service = await startTestService();
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    const { room } = await ansel.openRoom();
    for (const player of [brisa, corin]) await player.joinRoom({ room: room.id });
    const away = (player: typeof brisa) => ansel.until(({ room: one }) => one?.members[player.id]?.presence === "away");
    for (const player of [brisa, corin]) {
      player.drop();
      await away(player);
    }
    await ansel.ask("room.kick", { player: brisa.id, reason: "too loud", ban: false });
    await service.operator.closeRoom(room.id, "maintenance");
    const back = await service.player("Brisa", { resume: brisa.resumeToken });
    expect(back.state.lobby?.id).toBe("quayside");
    expect(back.missed).toMatchObject([
      { kind: "out-of-room", cause: "kicked", by: "host", why: "too loud", room: room.id, atMs: expect.any(Number) },
    ]);
    const other = await service.player("Corin", { resume: corin.resumeToken });
    expect(other.missed).toMatchObject([{ kind: "out-of-room", cause: "closed", why: "maintenance" }]);
    // Told once: whoever is lost again has nothing left over from before.
    back.drop();
    await ansel.until(({ lobby }) => lobby?.players?.[back.id]?.presence !== "here");
    expect((await service.player("Brisa", { resume: brisa.resumeToken })).missed).toEqual([]);
  });

  it("tells again what a client has not heard by its own word, and counts it", async () => {
    const service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom();
    await brisa.joinRoom({ room: room.id });
    await ansel.ask("room.kick", { player: brisa.id, reason: "too loud", ban: false });
    await brisa.until((state) => state.lobby !== undefined);
    // It was told while it was connected; a cut at that moment would have lost it.
    const comeBack = async (heard: number) => {
      const client = await rawClient(service.url);
      client.send({ frame: "hello", wire: 1, build: "game-1", resume: brisa.resumeToken, heard });
      return client.frame("welcome");
    };
    expect(await comeBack(0)).toMatchObject({
      player: { revision: 1 },
      missed: [{ kind: "out-of-room", revision: 1, why: "too loud", room: room.id }],
    });
    const welcome = await comeBack(1);
    expect(welcome).toMatchObject({ player: { revision: 1 } });
    expect(welcome).not.toHaveProperty("missed");
  });

  it("brings a new client the whole state, and everybody the same one after the service was started anew", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const brisa = await service.player("Brisa", { reconnect: false });
    await brisa.joinRoom({ code: room.code });
    const { resumeToken } = brisa;
    brisa.drop();
    await ansel.until((state) => state.room?.members[brisa.id]?.presence === "away");
    const again = await service.player("Brisa", { resume: resumeToken });
    // A new client holds nothing, so nothing can be continued.
    expect(again.state.room?.members[brisa.id]?.presence).toBe("here");

    const resumed = new Promise((resolve) => ansel.on("resumed", resolve));
    const after = await service.restart();
    await resumed;
    // All that happened since is what the restart itself has done: it lost everybody, and takes them up again.
    await ansel.until((state) => state.room?.members[again.id]?.presence === "here");
    await again.until((state) => state.room?.revision === ansel.state.room?.revision);
    expect(again.state.room).toEqual(ansel.state.room);
    expect(await after.operator.room(room.id)).toEqual(ansel.state.room);
  });
});

describe("a connection that was told to close", () => {
  it("says nothing more for its player, however long its client keeps it open", async () => {
    const service = await startTestService();
    const former = await rawClient(service.url);
    // A client that does not answer a close, and so keeps its side open until it is cut.
    former.socket.close = () => undefined;
    former.send({ frame: "hello", wire: 1, name: "Ansel", build: "game-1" });
    const { resume } = (await former.frame("welcome")) as { resume: string };
    const ansel = await service.player("Ansel", { resume });
    const { room } = await ansel.openRoom();
    expect(await former.frame("closing")).toMatchObject({ problem: { code: "taken-over" } });
    former.send({ frame: "request", id: 7, ask: "room.set-ready", args: { ready: true } });
    former.send({ frame: "request", id: 8, ask: "room.leave", args: {} });
    // Whatever they came to is done by now: the room is asked after what was sent before it.
    for (let n = 0; n < 3; n++) await ansel.board.set("asked", n);
    expect(await service.operator.room(room.id)).toMatchObject({ members: { [ansel.id]: { ready: false } } });
    expect(former.frames.map(({ frame }) => frame)).not.toContain("reply");
    former.socket.terminate();
  });
});
