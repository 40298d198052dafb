import { afterEach, describe, expect, it } from "vitest";
import type { Config } from "../config/schema.ts";
import { AddressGate, type AddressQuota } from "../front-door/address-gate.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { Allowances } from "./allowance.ts";

afterEach(endAll);

function quotaOf(address: string): AddressQuota {
  const admitted = new AddressGate({ connections: 10, perSecond: 10 }).admit(address, 0);
  if ("refused" in admitted) throw new Error("refused");
  return admitted.quota;
}

const withPlayers = (players: Partial<Config["players"]>, rest: Partial<Config> = {}) =>
  testConfig("good", (config) => ({ ...config, ...rest, players: { ...config.players, ...players } }));

describe("what a player may cost", () => {
  it("is counted by what is asked for, not by how often", () => {
    const allowances = new Allowances(50);
    const quota = quotaOf("192.0.2.1");
    const asked = (player: string, ask: "room.ready" | "lobby.rooms", bytes = 60) => {
      let count = 0;
      while (allowances.refusal(player, { ask, bytes, quota }, 0) === undefined) count += 1;
      return count;
    };
    expect([asked("p_1", "room.ready"), asked("p_2", "lobby.rooms"), asked("p_3", "room.ready", 2_048)]).toEqual([
      ...[400, 40, 44],
    ]);
    // A second brings so much back.
    expect(allowances.refusal("p_2", { ask: "lobby.rooms", bytes: 0, quota }, 1_000)).toBeUndefined();
    expect(allowances.refusal("p_1", { ask: "room.ready", bytes: 0, quota }, 100)?.code).toBeUndefined();
  });

  it("is bounded for all players of an address together, and another address does not notice", () => {
    const allowances = new Allowances(50);
    const [one, other] = [quotaOf("192.0.2.1"), quotaOf("192.0.2.2")];
    let refused = 0;
    for (let player = 0; player < 100; player++) {
      for (let n = 0; n < 40; n++) {
        if (allowances.refusal(`p_${player}`, { ask: "lobby.rooms", bytes: 0, quota: one }, 0)) refused += 1;
      }
    }
    expect(refused).toBeGreaterThan(2_000);
    expect(allowances.refusal("p_far", { ask: "lobby.rooms", bytes: 0, quota: other }, 0)).toBeUndefined();
  });

  it("does not come back with another connection", async () => {
    const service = await startTestService(withPlayers({ framesPerSecond: 10 }));
    const ansel = await service.player("Ansel");
    const answers = await Promise.allSettled(Array.from({ length: 12 }, () => ansel.listRooms()));
    expect(answers.filter(({ status }) => status === "rejected")[0]).toMatchObject({ reason: { code: "too-costly" } });
    ansel.drop();
    const again = await service.player("Ansel", { resume: ansel.resumeToken });
    expect(again.id).toBe(ansel.id);
    await expect(again.listRooms()).rejects.toMatchObject({ code: "too-costly" });
    // What costs little is still answered, and others do not notice.
    const brisa = await service.player("Brisa");
    await expect(brisa.listRooms()).resolves.toBeDefined();
  });
});

describe("room codes", () => {
  it("that are mistyped are unknown, as often as somebody mistypes one", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    for (const code of ["ABCDE", "K7R", "k7rdmm", "AAAAA", "01234", "K7RD!", "OOPS"]) {
      await expect(ansel.joinRoom({ code })).rejects.toMatchObject({ code: "room-code-unknown" });
    }
    await expect(ansel.joinRoom({ code: "K7RD0" })).rejects.toThrow(/Codes have 5 characters out of CDFG/);
    expect(ansel.isConnected).toBe(true);
    // Too many of them are guesses, whichever connection they come by; the right code waits with them.
    await expect(ansel.joinRoom({ code: "K7RDM" })).rejects.toMatchObject({ code: "codes-too-fast" });
    ansel.drop();
    const again = await service.player("Ansel", { resume: ansel.resumeToken });
    await expect(again.joinRoom({ code: "K7RDM" })).rejects.toMatchObject({ code: "codes-too-fast" });
    const brisa = await service.player("Brisa");
    const { room } = await brisa.openRoom();
    await expect(again.joinRoom({ room: room.id })).resolves.toBeDefined();
  });
});

describe("the places of players", () => {
  it("go to who is here: whoever is away and has begun nothing makes way, and nobody else", async () => {
    const service = await startTestService(withPlayers({ limit: 3, graceMs: 60_000 }));
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    await ansel.openRoom();
    ansel.drop();
    brisa.drop();
    const dovie = await service.player("Dovie");
    expect(dovie.isConnected).toBe(true);
    // Ansel is away as well, but in a room; Corin and Dovie are here.
    await expect(service.player("Edda")).rejects.toMatchObject({ code: "harbor-full" });
    await expect(service.player("Brisa", { resume: brisa.resumeToken })).rejects.toMatchObject({
      code: "player-unknown",
    });
    await expect(service.player("Ansel", { resume: ansel.resumeToken })).resolves.toBeDefined();
    expect(corin.isConnected).toBe(true);
  });

  it("are shared out by address: one that brings guests without end is held up", async () => {
    const perAddress = { sockets: 1_000, connections: 20, perSecond: 1_000 };
    const service = await startTestService(withPlayers({ perAddress, graceMs: 60_000 }));
    let refused: unknown;
    for (let n = 0; n < 60 && refused === undefined; n++) {
      await service.player(`Guest ${n}`).then(
        (guest) => guest.drop(),
        (error: unknown) => {
          refused = error;
        },
      );
    }
    expect(refused).toMatchObject({ code: "too-many-connections", message: expect.stringContaining("new players") });
    expect((await service.operator.status()).players).toMatchObject({ away: 20 });
  });
});
