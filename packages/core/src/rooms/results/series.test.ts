import { describe, expect, it } from "vitest";
import { invariantViolations } from "../../harbor/invariants.ts";
import { testRules } from "../../testing/rules.ts";
import { acknowledge, boardAll, bringUp, instanceOf, playedRoom, runOf, startRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

type Scores = Readonly<Record<string, number>>;

function playing(kind = "sided", rules = testRules()) {
  const test = new TestHarbor(rules);
  const players = ["Ansel", "Brisa"].map((name) => test.connect(name)) as [string, string];
  const room = playedRoom(test, kind, players);
  return { test, room, players };
}

/** The run under way ends so; then the next one is played to where it plays. */
function finish(test: TestHarbor, room: string, scores: Scores, sides?: Scores): void {
  const instance = instanceOf(test, room);
  const standings = Object.entries(scores).map(([player, score]) => ({ player, score }));
  test.ok({ do: "instance.report", instance, run: runOf(test, room), standings, ...(sides && { sides }) });
}

function playNext(test: TestHarbor, room: string): void {
  if (test.room(room).phase === "results") test.ok({ do: "room.gather", player: test.room(room).host ?? "", args: {} });
  startRoom(test, room);
  if (test.instance(instanceOf(test, room)).state === "launched") bringUp(test, room);
  acknowledge(test, room);
  boardAll(test, room);
}

describe("a series", () => {
  it("is won by the side that has won more than half of it, over sides that are swapped after each run", () => {
    const { test, room, players } = playing();
    const [ansel, brisa] = players;
    const sideOf = (player: string) => test.room(room).members.get(player)?.side;
    expect([sideOf(ansel), sideOf(brisa)]).toEqual(["north", "south"]);
    finish(test, room, { [ansel]: 5, [brisa]: 3 });
    expect([sideOf(ansel), sideOf(brisa)]).toEqual(["south", "north"]);
    const held = test.views.get(brisa)?.room;
    expect(held?.series).toEqual({
      played: 1,
      bestOf: 3,
      over: false,
      // Ansel's side has won, and stands in the south now.
      wins: [{ side: "south", rank: 1, wins: 1 }],
      totals: [
        { player: ansel, rank: 1, score: 5 },
        { player: brisa, rank: 2, score: 3 },
      ],
    });
    expect(held?.members[ansel]?.side).toBe("south");
    playNext(test, room);
    finish(test, room, { [ansel]: 4, [brisa]: 4 }, { north: 1, south: 9 });
    expect(test.views.get(ansel)?.room?.series).toMatchObject({
      played: 2,
      over: true,
      wins: [{ side: "south", wins: 2 }],
    });
    // Nobody changes sides after the last run, and the next one begins anew.
    expect(sideOf(ansel)).toBe("south");
    playNext(test, room);
    finish(test, room, { [ansel]: 1, [brisa]: 2 });
    expect(test.views.get(ansel)?.room?.series).toMatchObject({ played: 1, over: false, wins: [{ wins: 1 }] });
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("counts a run that nobody has won alone, and is over after the last", () => {
    const { test, room, players } = playing();
    const even = Object.fromEntries(players.map((player) => [player, 2]));
    for (let n = 0; n < 3; n++) {
      finish(test, room, even);
      if (n < 2) playNext(test, room);
    }
    expect(test.views.get(players[0])?.room?.series).toMatchObject({ played: 3, over: true, wins: [] });
  });

  it("is of players where the room has no sides, and instances are told which run it is", () => {
    const rules = testRules();
    const crews = rules.roomKinds.get("crews");
    if (!crews) throw new Error("no kind");
    const roomKinds = new Map([
      ...rules.roomKinds,
      ["crews", { ...crews, series: { bestOf: 3, swapSides: true } }] as const,
    ]);
    const { test, room, players } = playing("crews", { ...rules, roomKinds });
    const [ansel, brisa] = players;
    finish(test, room, { [ansel]: 2, [brisa]: 7 });
    expect(test.views.get(ansel)?.room?.series?.wins).toEqual([{ player: brisa, rank: 1, wins: 1 }]);
    playNext(test, room);
    const told = test.journal.flatMap(({ event }) => (event.kind === "instance.assigned" ? [event.match.series] : []));
    expect(told).toEqual([
      { number: 1, bestOf: 3 },
      { number: 2, bestOf: 3 },
    ]);
    // A run that comes to nothing does not count.
    test.ok({ do: "room.operator-end", room, reason: undefined });
    expect(test.room(room).series).toMatchObject({ played: 1 });
  });
});
