import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../testing/test-service.ts";

afterEach(endAll);

const once = <K extends string, E>(source: { on: (kind: K, listener: (event: E) => void) => unknown }, kind: K) =>
  new Promise<E>((resolve) => source.on(kind, resolve));

describe("being kicked", () => {
  it("of a room by its host leaves one connected, in the lobby, and told why", async () => {
    const service = await startTestService();
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ code: room.code });
    const out = once(brisa, "outOfRoom");
    await ansel.kick(brisa.id, { reason: "too loud", ban: true });
    expect(await out).toMatchObject({ cause: "kicked", by: "host", why: "too loud", lobby: { id: "quayside" } });
    expect(brisa.state).toMatchObject({ room: undefined, lobby: { players: { [brisa.id]: { name: "Brisa" } } } });
    await expect(brisa.joinRoom({ code: room.code })).rejects.toMatchObject({ code: "banned-from-room" });
    expect((await brisa.quickJoin()).opened).toBe(true);
  });

  it("of the harbor by an operator ends the connection with the reason, and the SDK does not come back", async () => {
    const service = await startTestService();
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ room: room.id });
    const ended = once(ansel, "ended");
    await service.operator.kick(ansel.id, "cheating");
    expect(await ended).toMatchObject({
      problem: { code: "kicked", detail: "An operator kicked you: cheating." },
    });
    const { room: after } = await brisa.until((state) => state.room?.host === brisa.id);
    expect(Object.keys(after?.members ?? {})).toEqual([brisa.id]);
    await expect(service.player("Ansel", { resume: ansel.resumeToken })).rejects.toMatchObject({
      code: "player-unknown",
    });
  });
});

describe("operators", () => {
  it("close rooms, hand over and kick, by id or code; who is not there is refused by name", async () => {
    const service = await startTestService();
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ room: room.id });
    await service.operator.handOverRoom(room.code.toLowerCase(), brisa.id);
    await ansel.until((state) => state.room?.host === brisa.id);
    await expect(service.operator.kickFromRoom(room.id, "p_000000000000")).rejects.toMatchObject({
      code: "member-unknown",
    });
    await expect(service.operator.closeRoom("NOPE")).rejects.toMatchObject({ code: "room-unknown" });
    const out = Promise.all([once(ansel, "outOfRoom"), once(brisa, "outOfRoom")]);
    await service.operator.closeRoom(room.id, "maintenance");
    for (const update of await out)
      expect(update).toMatchObject({ cause: "closed", by: "operator", why: "maintenance" });
    expect((await service.operator.rooms()).rooms).toEqual([]);
    expect((await service.operator.players()).players.map(({ name, room: where }) => [name, where])).toEqual(
      expect.arrayContaining([
        ["Ansel", undefined],
        ["Brisa", undefined],
      ]),
    );
  });

  it("page through players", async () => {
    const service = await startTestService();
    await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    const first = await service.operator.players({ limit: 2 });
    const second = await service.operator.players({ limit: 2, after: first.next });
    expect(first.players).toHaveLength(2);
    expect(second.players).toHaveLength(1);
    expect(second.next).toBeUndefined();
  });
});

describe("the board", () => {
  it("outlives a restart, and who comes back finds it as it is", async () => {
    const service = await startTestService();
    const [ansel, brisa] = await Promise.all([service.player("Ansel"), service.player("Brisa")]);
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ room: room.id });
    await ansel.board.set("tide.marks", [1, null, { high: true }], { onLeave: "keep" });
    await brisa.until((state) => state.room?.board["tide.marks"] !== undefined);
    expect(brisa.board.value("tide.marks")).toEqual([1, null, { high: true }]);
    expect(brisa.board.value("constructor")).toBeUndefined();
    for (const key of ["", "__proto__", "a b", "x".repeat(65)]) {
      await expect(brisa.board.set(key, 1)).rejects.toMatchObject({ code: "request-invalid" });
    }
    const resumed = once(brisa, "resumed");
    const again = await service.restart();
    await resumed;
    expect(brisa.board.value("tide.marks")).toEqual([1, null, { high: true }]);
    expect((await again.operator.room(room.id)).board["tide.marks"]).toMatchObject({
      owner: ansel.id,
      revision: 1,
      onLeave: "keep",
    });
  });
});

describe("the directory", () => {
  it("lists only rooms that are to be listed", async () => {
    const service = await startTestService();
    const [ansel, brisa, corin] = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    await ansel?.openRoom({ name: "Open water" });
    await brisa?.openRoom({ name: "Hidden cove" });
    await brisa?.changeRoom({ visibility: "code-only" });
    const { rooms, total } = (await corin?.listRooms()) ?? { rooms: [], total: -1 };
    expect([rooms.map(({ name }) => name), total]).toEqual([["Open water"], 1]);
  });
});
