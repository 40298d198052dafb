import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const withSides = () =>
  testConfig("good", (one) =>
    Config.parse({
      ...one,
      roomKinds: { crews: { ...one.roomKinds["crews"], sides: { names: ["north", "south"], max: 3 } } },
    }),
  );

describe("private entries", () => {
  it("reach those they are for and nobody else, are there after a restart, and follow who changes sides", async () => {
    const service = await startTestService(withSides());
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    const { room } = await ansel.openRoom({ capacity: 4 });
    for (const one of [brisa, corin]) await one.joinRoom({ room: room.id });
    const { side = "", revision } = { ...room.members[ansel.id], revision: corin.state.room?.revision };
    const other = corin.state.room?.members[brisa.id]?.side ?? "";
    expect([side, other, corin.state.room?.members[corin.id]?.side]).toEqual(["north", "south", "north"]);
    const heard = new Promise((resolve) => corin.on("privateEntries", resolve));
    expect(await ansel.board.setPrivate("plan", { first: "gate" }, { side })).toEqual({ revision: 1 });
    const entry = { owner: ansel.id, key: "plan", to: { side }, value: { first: "gate" }, revision: 1 };
    expect(await heard).toEqual([entry]);
    expect([ansel.board.private, brisa.board.private]).toEqual([[entry], []]);
    // Nothing of it is in what everybody holds.
    expect(JSON.stringify([brisa.state, await service.operator.room(room.id)])).not.toContain("gate");
    expect(corin.state.room?.revision).toBe(revision);
    expect(await service.operator.privateEntries(room.code)).toEqual({ entries: [entry] });
    await expect(service.operator.privateEntries("NOPE")).rejects.toMatchObject({ code: "room-unknown" });

    const resumed = Promise.all([ansel, brisa, corin].map((one) => new Promise((done) => one.on("resumed", done))));
    const again = await service.restart();
    await resumed;
    expect([ansel, brisa, corin].map(({ board }) => board.private.length)).toEqual([1, 0, 1]);

    const moved = new Promise((resolve) => brisa.on("privateEntries", resolve));
    await brisa.moveTo({ side });
    expect(await moved).toEqual([entry]);
    const left = new Promise((resolve) => brisa.on("privateEntries", resolve));
    await brisa.leaveRoom();
    expect(await left).toEqual([]);
    const gone = new Promise((resolve) => corin.on("privateEntries", resolve));
    await ansel.leaveRoom();
    expect(await gone).toEqual([]);
    expect(await again.operator.privateEntries(room.id)).toEqual({ entries: [] });
  });
});
