import type { PoolRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import type { HarborRules } from "../model/rules.ts";
import { testRules, testSpec } from "../testing/rules.ts";
import { boardAll, bringUp, instanceOf, joinRoom, openRoom, runOf, startRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainInstance } from "./explain.ts";
import { compareBuilds } from "./fit.ts";
import { instanceView } from "./view.ts";

const CLIENTS = ["game-0.9", "game-0.10", "game-1.0"];

/** Rules that let these clients in, and give them servers as said. */
function rulesWith(byClient: PoolRules["byClient"]): HarborRules {
  const rules = testRules();
  const pools = [...rules.pools].map(([id, pool]) => [id, { ...pool, byClient, reuse: "any" }] as const);
  return { ...rules, players: { ...rules.players, builds: CLIENTS }, pools: new Map(pools) };
}

function roomOf(test: TestHarbor, build: string): string {
  const [host, other] = ["Ansel", "Brisa"].map(
    (name) =>
      test.ok({ do: "player.connect", name: `${name} ${build}`, build, lobby: undefined, connection: 1 }).player.id,
  ) as [string, string];
  const room = openRoom(test, host, { kind: "crews", capacity: 3 });
  joinRoom(test, room, other);
  return room;
}

/** Starts a room of such clients, and tells what runs for it. */
function played(test: TestHarbor, build: string) {
  const room = roomOf(test, build);
  startRoom(test, room);
  return test.instance(instanceOf(test, room));
}

const textOf = (test: TestHarbor, id: string) =>
  explainInstance(test.harbor.state, test.harbor.rules, instanceView(test.harbor.state, test.instance(id))).text;

describe("the build of a room's instance", () => {
  it("is the first that is for its clients, by name or by range, and the pool's own for all others", () => {
    const test = new TestHarbor(
      rulesWith([
        { build: "old-breakwater", to: "game-0.9" },
        { build: "new-breakwater", clients: ["game-1.0"] },
      ]),
    );
    for (const line of ["old-breakwater", "new-breakwater"])
      test.run({ do: "build.configure", line, spec: testSpec() });
    const found = CLIENTS.map((build) => played(test, build));
    expect(found.map(({ build }) => build)).toEqual(["old-breakwater", "breakwater", "new-breakwater"]);
    const texts = found.map(({ id }) => textOf(test, id)[1]);
    expect(texts).toEqual([
      "It is that build since old-breakwater is for clients to game-0.9, and its players' run game-0.9.",
      "It is that build since breakwater is for all clients that no other is for, such as game-0.10.",
      "It is that build since new-breakwater is for clients of game-1.0.",
    ]);
  });

  it("is the version of their very name, kept while its clients come, and refused where there is none", () => {
    const test = new TestHarbor(rulesWith("exact"), testSpec({ version: "game-0.9" }));
    const rollOut = { steps: [1], enough: 1, maxFailures: 0.2 };
    test.ok({ do: "build.add", line: "breakwater", spec: testSpec({ version: "game-1.0" }), rollOut });
    test.run({ do: "build.change", line: "breakwater", version: "game-1.0", to: "promoted", reason: undefined });
    expect(["game-0.9", "game-1.0"].map((build) => played(test, build).version)).toEqual(["game-0.9", "game-1.0"]);
    const room = roomOf(test, "game-0.10");
    startRoom(test, room);
    expect(test.room(room).setback?.detail).toBe(
      "Build line breakwater has no version game-0.10, as its players' clients run; it has game-0.9, game-1.0.",
    );
    // One that was rolled back is for nobody.
    test.run({ do: "build.change", line: "breakwater", version: "game-1.0", to: "rolled-back", reason: undefined });
    const next = roomOf(test, "game-1.0");
    startRoom(test, next);
    expect(test.room(next).setback?.detail).toContain("; game-1.0 was rolled back.");
  });

  it("is theirs alone where its command line names their build", () => {
    const test = new TestHarbor(rulesWith(null), testSpec({ args: ["--for", "{client.build}"] }));
    const room = roomOf(test, "game-0.9");
    startRoom(test, room);
    const first = test.instance(instanceOf(test, room));
    expect(first.client).toBe("game-0.9");
    bringUp(test, room);
    boardAll(test, room);
    test.ok({ do: "instance.report", instance: first.id, run: runOf(test, room), standings: [], note: undefined });
    test.ok({ do: "room.dissolve", room, reason: "maintenance", by: "operator" });
    expect(played(test, "game-1.0").id).not.toBe(first.id);
  });
});

describe("names of builds", () => {
  it("are in the order of the numbers in them", () => {
    const sorted = ["game-0.9", "game-0.9-beta", "game-0.10", "game-0.10.1", "game-1.0", "game-10.0"];
    expect([...sorted].reverse().sort(compareBuilds)).toEqual(sorted);
    expect(compareBuilds("game-1.0", "game-1.0")).toBe(0);
    // However long the digits are, and whatever stands where.
    expect(compareBuilds("a", "1")).toBe(-compareBuilds("1", "a"));
  });
});
