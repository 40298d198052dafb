import { describe, expect, it } from "vitest";
import type { OutputEvent } from "../model/pools/commands.ts";
import { matchesOf } from "../model/pools/holds.ts";
import { testRules, testSpec } from "../testing/rules.ts";
import { instanceOf, joinRoom, openRoom, startRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { instanceView } from "./view.ts";

describe("an instance that knows nothing of us", () => {
  const watch = { joined: "joined (?<name>.+)", left: "left (?<name>.+)", over: "match over" };
  let upTo = 0;
  const hear = (test: TestHarbor, instance: string, ...said: OutputEvent[]) => {
    upTo += 10;
    test.ok({ do: "instance.output", instance, stream: "out", upTo, anew: false, said });
  };
  const joined = (text: string): OutputEvent => ({ what: "joined", who: { by: "name", text } });
  const left = (text: string): OutputEvent => ({ what: "left", who: { by: "name", text } });

  function started([first, second]: readonly [string, string] = ["Ansel", "Brisa"]): {
    test: TestHarbor;
    room: string;
    one: string;
  } {
    const test = new TestHarbor(testRules(), testSpec({ ready: { line: "listening" }, watch }));
    const room = openRoom(test, test.connect(first), { kind: "crews", capacity: 3 });
    joinRoom(test, room, test.connect(second));
    startRoom(test, room);
    const one = instanceOf(test, room);
    test.ok({ do: "instance.spawned", instance: one, pid: 4_242 });
    hear(test, one, { what: "ready" });
    test.ok({ do: "instance.probed", instance: one, reached: true, detail: "reached" });
    return { test, room, one };
  }

  it("is ready by its line, takes its match without an order, and plays when all have joined", () => {
    const { test, room, one } = started();
    expect(test.room(room).phase).toBe("travelling");
    expect(test.instance(one)).toMatchObject({ state: "busy", instructions: [] });
    hear(test, one, joined("Ansel"), joined("Brisa"));
    expect(test.room(room).phase).toBe("playing");
    hear(test, one, { what: "over" });
    expect(test.room(room).phase).toBe("gathering");
    expect(test.instance(one).state).toBe("open");
  });

  it("counts right over the change of matches, also when lines of who left are missing", () => {
    const { test, room, one } = started();
    hear(test, one, joined("Ansel"), joined("Brisa"), { what: "over" }, left("Ansel"));
    // The match was not under way when its end was read with its beginning: the lines that follow say so again.
    hear(test, one, { what: "over" });
    expect(test.room(room).phase).toBe("gathering");
    startRoom(test, room);
    expect(matchesOf(test.instance(one))[0]?.berths.size).toBe(2);
    hear(test, one, joined("Ansel"));
    expect(instanceView(test.instance(one)).berths.map(({ name, state }) => `${name} ${state}`)).toEqual([
      "Ansel taken",
      "Brisa reserved",
    ]);
  });

  it("shows whose line is missing, and who came in without a berth", () => {
    const { test, one, room } = started();
    const corin = test.connect("Corin");
    hear(test, one, joined("Ansel"), joined("Brisa"));
    hear(test, one, joined("Edda"));
    expect(instanceView(test.instance(one)).differences).toMatchObject([{ player: "name Edda", what: "not-expected" }]);
    hear(test, one, left("Edda"));
    expect(instanceView(test.instance(one)).differences).toBeUndefined();
    void corin;
    hear(test, one, left("Brisa"));
    expect(test.room(room).members.size).toBe(2);
    expect(instanceView(test.instance(one)).berths.find(({ name }) => name === "Brisa")?.state).toBe("left");
  });

  it("takes two players of one name for two, whoever of them comes and goes", () => {
    const { test, room, one } = started(["Ansel", "Ansel"]);
    hear(test, one, joined("Ansel"));
    expect(test.room(room).phase).toBe("travelling");
    hear(test, one, joined("Ansel"));
    expect(test.room(room).phase).toBe("playing");
    hear(test, one, left("Ansel"), left("Ansel"));
    expect(instanceView(test.instance(one)).berths.map(({ state }) => state)).toEqual(["left", "left"]);
  });

  it("hears each line once, whatever is read again", () => {
    const { test, one } = started();
    hear(test, one, joined("Ansel"));
    const before = test.journal.length;
    test.ok({ do: "instance.output", instance: one, stream: "out", upTo, anew: false, said: [left("Ansel")] });
    expect(test.kinds(before)).toEqual([]);
  });

  it("is asked to stop by a signal", () => {
    const { test, room, one } = started();
    hear(test, one, joined("Ansel"), joined("Brisa"));
    let effects: readonly { effect: string }[] = [];
    for (const player of [...test.room(room).members.keys()]) {
      effects = test.run({ do: "room.leave", player, args: {} }).effects;
    }
    expect(effects).toContainEqual({ effect: "signal-instance", instance: one, signal: "terminate" });
  });
});
