import { beforeEach, describe, expect, it } from "vitest";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
});

const quickJoin = (player: string, args: object = {}) => {
  const { refused, reply } = test.ask(player, { do: "room.quick-join", player, args });
  if (refused) throw new Error(refused.detail);
  return reply as {
    room: { id: string; level?: { id: string }; settings: object; visibility: string };
    opened: boolean;
  };
};

describe("the room that somebody wants", () => {
  it("is met by the next who quick-joins with the same wish: a new one is opened as it was wanted", () => {
    for (const wish of [
      { level: "brine-gate" },
      { settings: { weather: "fog" } },
      { kind: "sided", level: "gull-flats" },
    ]) {
      const first = quickJoin(ansel, wish);
      expect(first.opened).toBe(true);
      expect(quickJoin(brisa, wish)).toMatchObject({ opened: false, room: { id: first.room.id } });
      for (const player of [ansel, brisa]) test.ask(player, { do: "room.leave", player, args: {} });
    }
  });

  it("is not another one: neither another level nor other settings will do", () => {
    const { room } = quickJoin(ansel, { level: "brine-gate", settings: { weather: "fog" } });
    expect(room).toMatchObject({ level: { id: "brine-gate" }, settings: { weather: "fog" } });
    expect(quickJoin(brisa, { level: "brine-gate", settings: { weather: "calm" } }).opened).toBe(true);
  });

  it("names a level that there is, and one of the room kind", () => {
    expect(test.refusal({ do: "room.quick-join", player: ansel, args: { level: "nowhere" } }).code).toBe(
      "level-unknown",
    );
    expect(test.refusal({ do: "room.open", player: ansel, args: { level: "nowhere" } }).code).toBe("level-unknown");
    expect(test.refusal({ do: "room.open", player: ansel, args: { kind: "voting", level: "gull-flats" } }).code).toBe(
      "level-not-yours",
    );
  });

  it("may be private from birth: nobody sees it, and nobody learns of it by its id", () => {
    const { reply } = test.ask(ansel, { do: "room.open", player: ansel, args: { visibility: "code-only" } });
    const { room } = reply as { room: { id: string; code: string } };
    expect(quickJoin(brisa).room.id).not.toBe(room.id);
    test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    expect(test.refusal({ do: "room.join", player: brisa, args: { room: room.id } }).code).toBe("room-unknown");
    expect(test.ask(brisa, { do: "room.join", player: brisa, args: { code: room.code } }).refused).toBeUndefined();
  });
});
