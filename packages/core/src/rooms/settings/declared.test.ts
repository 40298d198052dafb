import { describe, expect, it } from "vitest";
import { testRules } from "../../testing/rules.ts";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";
import { directoryPage } from "../directory/directory.ts";
import { roomKinds } from "./kinds.ts";

const settings = {
  tide: { type: "string", enum: ["spring", "neap"], default: "spring" },
  stakes: { type: "integer", minimum: 0, maximum: 50, default: 5 },
  wind: { type: "number", minimum: 0 },
  fog: { type: "boolean" },
  motto: { type: "string", maxLength: 8 },
  ranked: { type: "boolean", readOnly: true, default: false },
} as const;
const variants = { calm: { tide: "neap", stakes: 1 } } as const;

function declaredRules() {
  const rules = testRules();
  const kinds = [...rules.roomKinds].map(([id, kind]) => [id, { ...kind, settings, variants }] as const);
  return { ...rules, roomKinds: new Map(kinds) };
}

function opened(args: object = {}) {
  const test = new TestHarbor(declaredRules());
  const ansel = test.connect("Ansel");
  const room = openRoom(test, ansel, args);
  const change = (more: object) => test.run({ do: "room.change", player: ansel, args: more });
  return { test, ansel, room, change };
}

describe("settings that a room kind declares", () => {
  it("begin with their defaults, and with a variant where one is taken", () => {
    const { test, room } = opened();
    expect(test.room(room).settings).toEqual({ tide: "spring", stakes: 5, ranked: false });
    const calm = opened({ variant: "calm", settings: { stakes: 2 } });
    expect(calm.test.room(calm.room).settings).toEqual({ tide: "neap", stakes: 2, ranked: false });
  });

  it("change as they may, go back to their defaults, and are told to members", () => {
    const { test, ansel, room, change } = opened();
    expect(change({ settings: { stakes: 7, wind: 2.5, fog: true, motto: "onward" } }).refused).toBeUndefined();
    expect(change({ settings: { stakes: null, wind: null } }).refused).toBeUndefined();
    expect(test.room(room).settings).toEqual({ tide: "spring", stakes: 5, ranked: false, fog: true, motto: "onward" });
    expect(change({ variant: "calm" }).refused).toBeUndefined();
    expect(test.views.get(ansel)?.room?.settings).toEqual(test.room(room).settings);
    expect(test.room(room).settings).toMatchObject({ tide: "neap", stakes: 1, fog: true });
  });

  it.each([
    [{ colour: "red" }, "setting-unknown", "they have tide, stakes, wind, fog, motto, ranked"],
    [{ tide: "ebb" }, "setting-invalid", "expected one of spring, neap"],
    [{ stakes: 51 }, "setting-invalid", "expected 0 to 50"],
    [{ stakes: 1.5 }, "setting-invalid", "expected a whole number"],
    [{ wind: -1 }, "setting-invalid", "expected at least 0"],
    [{ wind: "much" }, "setting-invalid", "expected a number"],
    [{ fog: 1 }, "setting-invalid", "expected true or false"],
    [{ motto: "much too long" }, "setting-invalid", "expected at most 8 characters"],
    [{ ranked: true }, "setting-not-yours", "is for operators to set"],
    [{ toString: "x" }, "setting-unknown", "no setting toString"],
  ])("refuse %j", (wanted, code, text) => {
    const { test, room, change } = opened();
    const before = test.room(room).settings;
    expect(change({ settings: wanted }).refused).toMatchObject({ code, detail: expect.stringContaining(text) });
    expect(test.room(room).settings).toEqual(before);
    const player = test.connect("Brisa");
    expect(test.run({ do: "room.open", player, args: { settings: wanted } as never }).refused?.code).toBe(code);
  });

  it("refuse a variant that is none", () => {
    expect(opened().change({ variant: "wild" }).refused).toMatchObject({ code: "variant-unknown", accepted: ["calm"] });
    expect(opened().change({ variant: "constructor" }).refused?.code).toBe("variant-unknown");
  });

  it("are all an operator's to set", () => {
    const { test, room } = opened();
    test.ok({ do: "room.operator-change", room, change: { settings: { ranked: true } } });
    expect(test.room(room).settings["ranked"]).toBe(true);
  });

  it("are told to clients, by kind", () => {
    const [kind] = roomKinds(declaredRules(), "quayside");
    expect(kind).toMatchObject({ id: "crews", settings, variants });
    expect(roomKinds(testRules(), "quayside")[0]).not.toHaveProperty("settings");
  });
});

describe("a filter of the directory", () => {
  it("finds rooms by part of a name, by bounds of a number and by one of several values", () => {
    const test = new TestHarbor();
    const hosts = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    const stakes = [1, 5, 9];
    for (const [n, host] of hosts.entries()) {
      openRoom(test, host, { name: ["Slack Water", "High tide", "Low tide"][n], settings: { stakes: stakes[n] ?? 0 } });
    }
    const found = (filter: object) =>
      test.harbor.state.derived.directory
        .rows("quayside")
        .filter((row) => listed(test, filter).includes(row.room.id))
        .map(({ room }) => room.name)
        .sort();
    expect(found({ text: "TIDE" })).toEqual(["High tide", "Low tide"]);
    expect(found({ text: "corin" })).toEqual(["Low tide"]);
    expect(found({ settings: { stakes: { min: 5 } } })).toEqual(["High tide", "Low tide"]);
    expect(found({ settings: { stakes: { min: 2, max: 8 } } })).toEqual(["High tide"]);
    expect(found({ settings: { stakes: { anyOf: [1, 9] } } })).toEqual(["Low tide", "Slack Water"]);
    expect(found({ settings: { depth: { min: 0 } } })).toEqual([]);
    joinRoom(test, test.harbor.state.players.byId.get(hosts[0] ?? "")?.room ?? "", test.connect("Dovie"));
    test.ok({ do: "room.change", player: hosts[0] ?? "", args: { name: "Neap tide" } });
    expect(found({ text: "tide" })).toHaveLength(3);
  });
});

const listed = (test: TestHarbor, filter: object) =>
  directoryPage(test.harbor.state, "quayside", { filter, sort: "newest", limit: 50 }).rooms.map(({ id }) => id);
