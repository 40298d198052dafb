import type { RoomView } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const trimming = testConfig("good", (config) => ({
  ...config,
  players: { ...config.players, framesPerSecond: 100_000 },
  journal: { snapshotEvery: 400, keepEvents: 1_000, keepBytes: 1_000_000_000 },
}));

/** The room as it is now, with the number of the newest event. */
async function mark(service: TestService, room: string): Promise<{ seq: number; view: RoomView }> {
  const { journal } = await service.operator.status();
  return { seq: journal.seq, view: await service.operator.room(room) };
}

describe("looking back at a room", () => {
  it("shows at every moment what was shown then, in words too, also after it has closed", async () => {
    const service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom({ capacity: 3 });
    const marks = [await mark(service, room.id)];
    const then = async (done: Promise<unknown>) => {
      await done;
      marks.push(await mark(service, room.id));
    };
    await then(brisa.joinRoom({ room: room.id }));
    await then(ansel.board.set("stones", { north: [1, 2] }));
    await then(ansel.changeRoom({ settings: { weather: "fog" } }));
    await then(brisa.setReady(true));
    await then(ansel.handOver(brisa.id));
    await brisa.leaveRoom();
    await ansel.leaveRoom();
    for (const { seq, view } of marks) {
      const past = await service.operator.history(room.id, { seq });
      expect(past.room).toEqual(view);
      expect(past.closed).toBe(false);
    }
    const end = await service.operator.history(room.code);
    expect(end).toMatchObject({ closed: true, room: { id: room.id, host: ansel.id } });
    expect(end.story.at(-1)?.kind).toBe("room.closed");
    expect(end.next).toBeUndefined();
    const words = end.story.map(({ text }) => text).filter((text) => text !== undefined);
    expect(words).toContain(`Ansel opens room ${room.code} for 3 and is its host.`);
    expect(words).toContain(`Ansel sets stones on the board of room ${room.code}.`);
  });

  it("goes by time as well: the newest event at it, and from one event to the next", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const before = Date.now();
    await new Promise((resolve) => setTimeout(resolve, 5));
    await ansel.board.set("stones", 1);
    const past = await service.operator.history(room.id, { atMs: before });
    expect(past.room.board).toEqual({});
    const next = await service.operator.history(room.id, { seq: past.next ?? 0 });
    expect(next.story.at(-1)?.kind).toBe("room.board-set");
    expect(next.room.board.stones?.box).toEqual([1]);
    expect((await service.operator.history(room.id, { story: 1 })).story).toHaveLength(1);
  });

  it("finds nothing of rooms that never were, of moments before them, or of what was trimmed away", async () => {
    const service = await startTestService(trimming);
    const ansel = await service.player("Ansel");
    const gone = (await ansel.openRoom()).room;
    await ansel.leaveRoom();
    await expect(service.operator.history("r_000000000000")).rejects.toMatchObject({ code: "room-unknown" });
    await expect(service.operator.history("ZZZZZ")).rejects.toMatchObject({ code: "room-unknown" });
    await expect(service.operator.history(gone.id, { seq: 1 })).rejects.toMatchObject({ code: "room-unknown" });
    await expect(service.operator.history(gone.id, { seq: 1, atMs: 1 })).rejects.toMatchObject({
      code: "request-invalid",
    });
    expect((await service.operator.history(gone.code)).closed).toBe(true);
    const { room } = await ansel.openRoom();
    for (let n = 0; n < 2_500; n += 50) {
      await Promise.all(Array.from({ length: 50 }, (_, more) => ansel.board.set("stones", n + more)));
    }
    const trimmed = await service.restart();
    await expect(trimmed.operator.history(gone.code)).rejects.toMatchObject({
      code: "room-unknown",
      message: expect.stringMatching(/It goes back to event \d{3,4} of /),
    });
    // What is left of the other room's past is told from the snapshot that stands for the rest.
    const past = await trimmed.operator.history(room.id, { seq: 2_400, story: 5 });
    expect(past.room.board.stones?.box[0]).toBe(Number(past.room.board.stones?.revision) - 1);
    expect(past.story.map(({ seq }) => seq)).toEqual([2_396, 2_397, 2_398, 2_399, 2_400]);
  });
});
