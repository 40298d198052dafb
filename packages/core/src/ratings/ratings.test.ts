import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { invariantViolations } from "../harbor/invariants.ts";
import type { RatingRules } from "../model/ratings/rules.ts";
import { testRating, testRules } from "../testing/rules.ts";
import { boardAll, bringUp, instanceOf, runOf } from "../testing/scenes.ts";
import { search, ticketOf } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { ratingPage } from "./view.ts";

const rating: RatingRules = { ...testRating, attribute: "skill" };

function ratedHarbor(): TestHarbor {
  const rules = testRules();
  const queues = [...rules.queues].map(([id, queue]) => [id, id === "pairs" ? { ...queue, rating } : queue] as const);
  return new TestHarbor({ ...rules, queues: new Map(queues) });
}

const connect = (test: TestHarbor, name: string, account?: string) =>
  test.ok({
    do: "player.connect",
    name,
    build: "game-1",
    lobby: undefined,
    connection: 1,
    ...(account !== undefined && { identity: { account, roles: [], vouched: {} } }),
  }).player.id;

/** Two are matched, and their room plays. */
function playing(test: TestHarbor, one: string, other: string): string {
  for (const player of [one, other]) search(test, player, 1_000);
  test.pass(500);
  const room = test.harbor.state.players.byId.get(one)?.room ?? "";
  bringUp(test, room);
  boardAll(test, room);
  return room;
}

function report(test: TestHarbor, room: string, scores: Readonly<Record<string, number>>): void {
  const standings = Object.entries(scores).map(([player, score]) => ({ player, score, rank: 1 }));
  const run = runOf(test, room);
  test.ok({ do: "instance.report", instance: instanceOf(test, room), run, standings, note: undefined });
}

const ratingsIn = (test: TestHarbor) =>
  ratingPage(test.harbor.state, { queue: "pairs", rules: rating, limit: 10, atMs: test.now }).ratings;
const lastOf = (test: TestHarbor, kind: string) => test.journal.findLast(({ event }) => event.kind === kind)?.event;

describe("ratings", () => {
  it("change with the result of a match, and are what the account searches with from then on", () => {
    const test = ratedHarbor();
    const [ansel, brisa] = [connect(test, "Ansel", "game:1"), connect(test, "Brisa", "game:2")];
    // What a client says of itself is not looked at.
    search(test, ansel, 9_000);
    expect(ticketOf(test, ansel)?.players[0]?.attributes).toMatchObject({ skill: 1_500 });
    test.ok({ do: "queue.cancel", player: ansel, args: {} });
    const room = playing(test, ansel, brisa);
    report(test, room, { [ansel]: 10, [brisa]: 3 });
    expect(ratingsIn(test)).toMatchObject([
      { account: "game:1", rank: 1, matches: 1 },
      { account: "game:2", rank: 2, matches: 1 },
    ]);
    const [won, lost] = ratingsIn(test).map((one) => one.rating);
    expect((won ?? 0) + (lost ?? 0)).toBeCloseTo(3_000, 1);
    expect(won).toBeGreaterThan(1_600);
    expect(test.harbor.state.ratings.rooms.size).toBe(0);
    expect(test.appliedEvents.map((applied) => test.harbor.describe(applied, test.now)).join(" ")).toContain(
      "counts in pairs: game:1 won, 1500 to 1662 (+162); game:2 lost, 1500 to 1338 (-162).",
    );
    for (const player of [ansel, brisa]) test.run({ do: "room.leave", player, args: {} });
    test.pass(5_000);
    search(test, ansel, 1);
    expect(ticketOf(test, ansel)?.players[0]?.attributes).toMatchObject({ skill: won });
  });

  it("are of accounts alone: a guest counts as somebody new, and is not kept", () => {
    const test = ratedHarbor();
    const [ansel, guest] = [connect(test, "Ansel", "game:1"), connect(test, "Guest")];
    report(test, playing(test, ansel, guest), { [ansel]: 1, [guest]: 0 });
    expect(ratingsIn(test).map(({ account }) => account)).toEqual(["game:1"]);
  });

  it("fall for who leaves before the result, whatever that is", () => {
    const test = ratedHarbor();
    const [ansel, brisa] = [connect(test, "Ansel", "game:1"), connect(test, "Brisa", "game:2")];
    const room = playing(test, ansel, brisa);
    test.ok({ do: "room.leave", player: brisa, args: {} });
    report(test, room, { [ansel]: 0 });
    expect(lastOf(test, "rating.changed")).toMatchObject({
      left: [brisa],
      changes: [{ went: "won" }, { account: "game:2", went: "left", before: 1_500 }],
    });
  });

  it("do not change where a result names nobody of the match, which is told", () => {
    const test = ratedHarbor();
    const [ansel, brisa] = [connect(test, "Ansel", "game:1"), connect(test, "Brisa", "game:2")];
    report(test, playing(test, ansel, brisa), {});
    expect(lastOf(test, "rating.match-void")).toMatchObject({ why: "its result names nobody of the match" });
    expect(ratingsIn(test)).toEqual([]);
    expect(test.harbor.state.ratings.rooms.size).toBe(0);
  });

  it("do not change with a room that closes before its result, and are found again in a snapshot", () => {
    const test = ratedHarbor();
    const [ansel, brisa] = [connect(test, "Ansel", "game:1"), connect(test, "Brisa", "game:2")];
    const room = playing(test, ansel, brisa);
    const { rules } = test.harbor;
    expect(Harbor.fromSnapshot(rules, test.harbor.snapshot())?.state.ratings).toEqual(test.harbor.state.ratings);
    expect(test.harbor.state.ratings.rooms.size).toBe(1);
    test.ok({ do: "room.dissolve", room, reason: "closed", by: "operator" });
    expect(test.harbor.state.ratings.rooms.size).toBe(0);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("are set by an operator, and move towards the start with a season", () => {
    const test = ratedHarbor();
    test.ok({ do: "rating.set", queue: "pairs", account: "game:1", rating: 1_900, deviation: 60, by: "night watch" });
    test.ok({ do: "rating.set", queue: "pairs", account: "game:2", rating: 1_300, deviation: 200, by: "night watch" });
    test.ok({ do: "rating.begin-season", queue: "pairs", keep: 0.5, minDeviation: 150, by: "night watch" });
    expect(ratingsIn(test)).toMatchObject([
      { account: "game:1", rating: 1_700, deviation: 150 },
      { account: "game:2", rating: 1_400, deviation: 200 },
    ]);
    const other = { do: "rating.set", queue: "confirming-pairs", account: "game:1", rating: 1, by: "x" } as const;
    expect(test.refusal({ ...other, deviation: undefined })).toMatchObject({
      code: "queue-unknown",
      detail: "Queue confirming-pairs rates nobody, or is not there; these do: pairs, ended-pairs.",
    });
  });

  it("are listed the highest first, or one account with its rank", () => {
    const test = ratedHarbor();
    for (const [n, value] of [1_200, 1_900, 1_500, 1_700].entries()) {
      const account = `game:${n}`;
      test.ok({ do: "rating.set", queue: "pairs", account, rating: value, deviation: 60, by: "x" });
    }
    const page = (more: object) =>
      ratingPage(test.harbor.state, { queue: "pairs", rules: rating, limit: 2, atMs: test.now, ...more });
    expect(page({})).toMatchObject({ total: 4, ratings: [{ account: "game:1" }, { account: "game:3" }] });
    expect(page({ account: "game:2" }).ratings).toMatchObject([{ rank: 3, rating: 1_500 }]);
    expect(page({ account: "game:9" }).ratings).toEqual([]);
    const later = page({ account: "game:2", atMs: test.now + 365 * 86_400_000 }).ratings[0];
    expect(later?.deviation).toBeGreaterThan(100);
  });
});
