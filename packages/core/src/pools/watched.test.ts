import { describe, expect, it } from "vitest";
import type { OutputEvent } from "../model/pools/commands.ts";
import { matchesOf } from "../model/pools/holds.ts";
import { testRules, testSpec } from "../testing/rules.ts";
import { boardAll, bringUp, instanceOf, joinRoom, openRoom, runOf, startedRoom, startRoom } from "../testing/scenes.ts";
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
    expect(
      instanceView(test.harbor.state, test.instance(one)).berths.map(({ name, state }) => `${name} ${state}`),
    ).toEqual(["Ansel taken", "Brisa reserved"]);
  });

  it("shows whose line is missing, and who came in without a berth", () => {
    const { test, one, room } = started();
    const corin = test.connect("Corin");
    hear(test, one, joined("Ansel"), joined("Brisa"));
    hear(test, one, joined("Edda"));
    expect(instanceView(test.harbor.state, test.instance(one)).differences).toMatchObject([
      { player: "name Edda", what: "not-expected" },
    ]);
    hear(test, one, left("Edda"));
    expect(instanceView(test.harbor.state, test.instance(one)).differences).toBeUndefined();
    void corin;
    hear(test, one, left("Brisa"));
    expect(test.room(room).members.size).toBe(2);
    expect(instanceView(test.harbor.state, test.instance(one)).berths.find(({ name }) => name === "Brisa")?.state).toBe(
      "left",
    );
  });

  it("takes two players of one name for two, whoever of them comes and goes", () => {
    const { test, room, one } = started(["Ansel", "Ansel"]);
    hear(test, one, joined("Ansel"));
    expect(test.room(room).phase).toBe("travelling");
    hear(test, one, joined("Ansel"));
    expect(test.room(room).phase).toBe("playing");
    hear(test, one, left("Ansel"), left("Ansel"));
    expect(instanceView(test.harbor.state, test.instance(one)).berths.map(({ state }) => state)).toEqual([
      "left",
      "left",
    ]);
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

  it("has its scores from what it prints, the last of each player, until the match is over", () => {
    const { test, room, one } = started();
    const scored = (text: string, score: number): OutputEvent => ({ what: "score", who: { by: "name", text }, score });
    hear(test, one, joined("Ansel"), joined("Brisa"));
    hear(test, one, scored("Ansel", 3), scored("Ansel", 4), scored("Nobody", 9));
    // Said again it is no event: a server may print its table every second.
    const before = test.journal.length;
    hear(test, one, scored("Ansel", 4));
    expect(test.kinds(before)).toEqual(["instance.output-read"]);
    hear(test, one, scored("Brisa", 7), { what: "over" });
    const [ansel, brisa] = [...test.room(room).members.keys()];
    const reported = test.journal.findLast(({ event }) => event.kind === "instance.reported")?.event;
    expect(reported).toMatchObject({
      standings: [
        { player: brisa, rank: 1, score: 7 },
        { player: ansel, rank: 2, score: 4 },
      ],
    });
    // The next match begins without any.
    startRoom(test, room);
    expect(matchesOf(test.instance(one))[0]?.scores.size).toBe(0);
  });
});

describe("the longest times of a build", () => {
  it("stop an instance whose players have all left it, and not one that somebody comes back to", () => {
    const test = new TestHarbor(testRules(), testSpec({ limits: { emptyMs: 60_000 } }));
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    const room = openRoom(test, ansel, { kind: "crews", capacity: 3 });
    joinRoom(test, room, brisa);
    startRoom(test, room);
    bringUp(test, room);
    boardAll(test, room);
    const instance = instanceOf(test, room);
    test.ok({ do: "instance.unboard", instance, player: ansel, reason: "lost" });
    test.pass(120_000);
    expect(test.instance(instance).state).toBe("busy");
    test.ok({ do: "instance.unboard", instance, player: brisa, reason: "lost" });
    test.pass(59_999);
    expect(test.instance(instance).state).toBe("busy");
    test.pass(1);
    expect(test.instance(instance)).toMatchObject({
      state: "draining",
      why: "asked to stop: nobody has been in its match for 1 min, the longest its build allows",
    });
    expect(test.room(room).phase).not.toBe("playing");
  });

  it("let an instance play its match to the end, take no more, and stop", () => {
    const test = new TestHarbor(testRules(), testSpec({ limits: { runMs: 3_600_000 } }));
    const room = startedRoom(test, "crews", [test.connect("Ansel"), test.connect("Brisa")]);
    const instance = instanceOf(test, room);
    bringUp(test, room);
    boardAll(test, room);
    test.pass(3_600_000);
    expect(test.instance(instance)).toMatchObject({
      state: "draining",
      why: "has run for 1 h, the longest its build may",
      stopping: false,
    });
    expect(test.room(room).phase).toBe("playing");
    test.ok({ do: "instance.report", instance, run: runOf(test, room), standings: [], note: undefined });
    test.ok({ do: "room.dissolve", room, reason: "maintenance", by: "operator" });
    expect(test.instance(instance).stopping).toBe(true);
  });
});
