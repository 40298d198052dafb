import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

describe("yh room, without being a player", () => {
  it("opens, keeps places, brings in, starts; by code, by name, in words and as JSON", async () => {
    const service = await startTestService();
    const yh = (...args: string[]) => runYh([...args, "--url", service.url]);
    const opened = await yh(
      "room",
      "open",
      "quayside",
      "--name",
      "Final",
      "--capacity",
      "3",
      "--set",
      "tide=spring",
      "--json",
    );
    const { room } = JSON.parse(opened.out);
    expect(room).toMatchObject({ name: "Final", capacity: 3, settings: { tide: "spring" }, members: {} });
    expect((await yh("room", "reserve", room.code, "game:1201", "--name", "Edda", "--minutes", "5")).out).toBe(
      `A place of room ${room.code} is kept for game:1201 for 5 min.\n`,
    );
    expect((await yh("room", "reservations", room.code)).out).toMatch(/game:1201 +Edda +- +in 5 min/);
    await service.player("Ansel");
    await service.player("Brisa");
    expect((await yh("room", "put", room.code, "Ansel")).out).toBe(`Ansel is in room ${room.code}.\n`);
    await yh("room", "put", room.code, "Brisa");
    const shown = (await yh("room", "show", room.code)).out;
    expect(shown).toContain("places kept for Edda (ends in 5 min)");
    expect(shown).toContain("2 of 3 places taken, 1 kept");
    await yh("room", "change", room.code, "--level", "brine-gate", "--set", "tide=null", "stakes=5");
    expect((await service.operator.room(room.id)).settings).toEqual({ stakes: 5 });
    expect(await yh("room", "start", room.code)).toMatchObject({
      code: 4,
      err: expect.stringContaining("Ansel is not ready"),
    });
    expect((await yh("room", "ready", room.code, "ansel")).out).toBe("ansel is ready.\n");
    await yh("room", "ready", room.code, "Brisa");
    expect(await yh("room", "start", room.code)).toMatchObject({ out: `Room ${room.code} starts.\n` });
    expect((await yh("player", "show", "Ansel")).out).toContain(room.id);
    await yh("room", "cancel-reservation", room.code, "game:1201");
    expect((await yh("room", "reservations", room.code)).out).toContain("No places are kept.");
  });

  it("opens one room for one request", async () => {
    const service = await startTestService();
    const open = () => runYh(["room", "open", "quayside", "--request", "final-7", "--json", "--url", service.url]);
    const [first, second] = [JSON.parse((await open()).out), JSON.parse((await open()).out)];
    expect(second.room.id).toBe(first.room.id);
  });

  it.each([
    [["change", "K7RDM", "--set", "nonsense"], 2, "is no setting; give KEY=VALUE"],
    [["open", "quayside", "--visibility", "hidden"], 2, "give listed, code-only, locked"],
    [["open", "nowhere"], 3, "the lobbies are quayside"],
    [["put", "K7RDM", "Nobody"], 3, "No player is called Nobody"],
    [["end", "K7RDM"], 3, "There is no room K7RDM"],
  ])("says what is wrong with %j", async (args, code, text) => {
    const { url } = await startTestService();
    expect(await runYh(["room", ...args, "--url", url])).toMatchObject({ code, err: expect.stringContaining(text) });
  });
});
