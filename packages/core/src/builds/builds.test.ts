import { describe, expect, it } from "vitest";
import { testPlan, testRules, testSpec } from "../testing/rules.ts";
import { acknowledge, boardAll, instanceOf, startedRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { buildViews } from "./view.ts";

const line = "breakwater";
const rollOut = { steps: [0.5, 1], enough: 1, maxFailures: 0.2 };

function harbor(reuse: "room" | "any" = "room"): TestHarbor {
  const rules = testRules();
  const pools = new Map(
    [...rules.pools].map(([id, pool]) => {
      const plan = reuse === "any" ? testPlan({ cooldownMs: 60_000 }) : null;
      return [
        id,
        {
          ...pool,
          max: 30,
          ports: { from: 7_000 + (id === "sluice" ? 0 : 100), to: 7_060 + (id === "sluice" ? 0 : 100) },
          reuse,
          plan,
        },
      ] as const;
    }),
  );
  return new TestHarbor({ ...rules, pools });
}

const add = (test: TestHarbor, version: string, change = rollOut) =>
  test.ok({ do: "build.add", line, spec: testSpec({ version }), rollOut: change });
const versionOf = (test: TestHarbor, room: string) => test.instance(instanceOf(test, room)).version;
const stateOf = (test: TestHarbor, version: string) =>
  buildViews(test.harbor.state, line).find((one) => one.version === version);

let names = 0;
const crew = (test: TestHarbor) => {
  names += 1;
  return startedRoom(test, "crews", [test.connect(`A${names}`), test.connect(`B${names}`)]);
};

function comeUp(test: TestHarbor, room: string): void {
  const instance = instanceOf(test, room);
  const { port } = test.instance(instance).address;
  test.ok({ do: "instance.spawned", instance, pid: 4_242 });
  test.ok({ do: "instance.announce", instance, port, pid: 4_242 });
  test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
}

const fail = (test: TestHarbor, room: string) =>
  test.ok({ do: "instance.exited", instance: instanceOf(test, room), exitCode: 3, signal: null });

describe("a new version", () => {
  it("gets its share of new instances, grows step by step while it goes well, and takes over", () => {
    const test = harbor();
    expect(stateOf(test, "1")).toMatchObject({ state: "current", why: "from the configuration" });
    add(test, "2");
    expect(stateOf(test, "2")).toMatchObject({ state: "canary", share: 0.5 });
    const rooms = [crew(test), crew(test), crew(test), crew(test)];
    expect(rooms.map((room) => versionOf(test, room))).toEqual(["2", "1", "2", "1"]);
    comeUp(test, rooms[0] ?? "");
    expect(stateOf(test, "2")).toMatchObject({ state: "canary", share: 1 });
    const next = crew(test);
    expect(versionOf(test, next)).toBe("2");
    comeUp(test, next);
    expect(stateOf(test, "2")).toMatchObject({
      state: "current",
      why: "1 went well and 0 failed at 100 %: 2 takes over",
    });
    expect(stateOf(test, "1")).toMatchObject({ state: "former", why: "2 has taken over" });
    expect(versionOf(test, crew(test))).toBe("2");
  });

  it("goes back by itself when too many of it fail, and nothing new runs it", () => {
    const test = harbor();
    add(test, "2");
    const first = crew(test);
    expect(versionOf(test, first)).toBe("2");
    // The room is given another at once; with one failure of five still let through it may be the new version again.
    fail(test, first);
    expect(stateOf(test, "2")).toMatchObject({ state: "rolled-back", failed: 1 });
    expect(stateOf(test, "2")?.why).toContain("1 of 1 failed at 50 %");
    expect(stateOf(test, "1")?.state).toBe("current");
    for (const room of [first, crew(test), crew(test)]) expect(versionOf(test, room)).toBe("1");
  });

  it("leaves those who play on the former one in peace: its instance stops when their room lets go of it", () => {
    const test = harbor("any");
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    const room = startedRoom(test, "crews", [ansel, brisa]);
    comeUp(test, room);
    acknowledge(test, room);
    boardAll(test, room);
    const old = instanceOf(test, room);
    add(test, "2");
    test.ok({ do: "build.change", line, version: "2", to: "promoted", reason: "tried it" });
    expect(stateOf(test, "2")?.why).toBe("promoted by an operator: tried it");
    expect(test.room(room).phase).toBe("playing");
    expect(test.instance(old).state).toBe("busy");
    test.ok({ do: "instance.report", instance: old, run: test.room(room).run ?? "", standings: [], note: undefined });
    // The next run of the same room is on the new version.
    for (const player of [ansel, brisa]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: ansel, args: {} });
    expect(versionOf(test, room)).toBe("2");
    comeUp(test, room);
    acknowledge(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
    expect(test.instance(old)).toMatchObject({ state: "draining", stopping: true });
  });

  it("takes an instance of the former one from its pool for good, once its room lets go of it", () => {
    const test = harbor("any");
    const players = [test.connect("Ansel"), test.connect("Brisa")];
    const room = startedRoom(test, "crews", players);
    comeUp(test, room);
    acknowledge(test, room);
    boardAll(test, room);
    const old = instanceOf(test, room);
    test.ok({ do: "instance.report", instance: old, run: test.room(room).run ?? "", standings: [], note: undefined });
    add(test, "2");
    test.ok({ do: "build.change", line, version: "2", to: "promoted", reason: undefined });
    for (const player of players) test.ok({ do: "room.leave", player, args: {} });
    expect(test.instance(old)).toMatchObject({ state: "draining", stopping: true });
  });

  it("is refused when it is there with another way to run, while another is on its way, or for a line that nobody runs", () => {
    const test = harbor();
    const spec = testSpec({ version: "1", args: ["--other"] });
    expect(test.refusal({ do: "build.add", line, spec, rollOut }).code).toBe("build-exists");
    add(test, "2");
    // Said again it is the same.
    add(test, "2");
    expect(test.refusal({ do: "build.add", line, spec: testSpec({ version: "3" }), rollOut }).code).toBe(
      "roll-out-under-way",
    );
    expect(test.refusal({ do: "build.add", line: "raft", spec, rollOut })).toMatchObject({
      code: "build-line-unknown",
      detail: "No pool runs build line raft; there are breakwater.",
    });
    const change = { do: "build.change", line, to: "rolled-back", reason: undefined } as const;
    expect(test.refusal({ ...change, version: "9" }).code).toBe("build-version-unknown");
    test.ok({ ...change, version: "2" });
    expect(test.refusal({ ...change, version: "1" })).toMatchObject({ code: "no-roll-out" });
  });

  it("that has taken over can be taken back to the one before", () => {
    const test = harbor();
    add(test, "2");
    test.ok({ do: "build.change", line, version: "2", to: "promoted", reason: undefined });
    test.ok({ do: "build.change", line, version: "2", to: "rolled-back", reason: "it leaks" });
    expect(stateOf(test, "1")).toMatchObject({ state: "current", why: "2 was rolled back" });
    expect(versionOf(test, crew(test))).toBe("1");
  });
});

describe("the version that the configuration names", () => {
  it("is current at once, keeps to what an operator has promoted as long as it stays the same, and is told when it changes", () => {
    const test = harbor();
    add(test, "2");
    test.ok({ do: "build.change", line, version: "2", to: "promoted", reason: undefined });
    const before = test.journal.length;
    test.ok({ do: "build.configure", line, spec: testSpec({ version: "1" }) });
    expect(test.kinds(before)).toEqual([]);
    expect(stateOf(test, "2")?.state).toBe("current");
    test.ok({ do: "build.configure", line, spec: testSpec({ version: "3" }) });
    expect(stateOf(test, "3")?.state).toBe("current");
    expect(stateOf(test, "2")?.state).toBe("former");
  });
});

describe("what a version has done", () => {
  it("is counted: launched, failed, matches", () => {
    const test = harbor();
    const room = startedRoom(test, "crews", [test.connect("Ansel"), test.connect("Brisa")]);
    fail(test, room);
    comeUp(test, room);
    acknowledge(test, room);
    boardAll(test, room);
    const instance = instanceOf(test, room);
    test.ok({ do: "instance.report", instance, run: test.room(room).run ?? "", standings: [], note: undefined });
    expect(stateOf(test, "1")).toMatchObject({ launched: 2, failed: 1, matches: 1, running: 1 });
  });
});
