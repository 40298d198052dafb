import { describe, expect, it } from "vitest";
import type { HarborRules } from "../../model/rules.ts";
import { testRules } from "../../testing/rules.ts";
import { acknowledge, instanceOf, playedRoom, runOf } from "../../testing/scenes.ts";
import { told } from "../../testing/searching.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

/** Rooms of two sides whose members are shown the payload, or not. */
function rulesWith(resultPayload: "members" | "back-end"): HarborRules {
  const rules = testRules();
  const roomKinds = new Map([...rules.roomKinds].map(([id, kind]) => [id, { ...kind, resultPayload }] as const));
  return { ...rules, roomKinds };
}

function playing(rules = rulesWith("members"), kind = "sided") {
  const test = new TestHarbor(rules);
  const players = ["Ansel", "Brisa"].map((name) => test.connect(name)) as [string, string];
  const room = playedRoom(test, kind, players);
  return { test, room, players, instance: instanceOf(test, room), run: runOf(test, room) };
}

const scores = (...players: readonly string[]) => players.map((player, n) => ({ player, score: 10 - n }));

describe("a result", () => {
  it("has ranks of players and sides, what became of each, and what else the game keeps", () => {
    const { test, room, players, instance, run } = playing();
    const [ansel, brisa] = players;
    test.ok({ do: "instance.unboard", instance, player: brisa, reason: "left" });
    test.ok({
      do: "instance.report",
      instance,
      run,
      standings: scores(...players),
      sides: { north: 31, south: 31 },
      payload: { stones: 41, by: ["Ansel"] },
    });
    const expected = {
      run,
      standings: [
        { player: ansel, rank: 1, score: 10 },
        { player: brisa, rank: 2, score: 9, verdict: "left" },
      ],
      sides: [
        { side: "north", rank: 1, score: 31 },
        { side: "south", rank: 1, score: 31 },
      ],
      payload: { stones: 41, by: ["Ansel"] },
    };
    expect(test.room(room).result).toMatchObject(expected);
    expect(test.views.get(ansel)?.room?.result).toMatchObject(expected);
  });

  it("keeps its payload from members, where the room kind says so", () => {
    const { test, room, players, instance, run } = playing(rulesWith("back-end"));
    test.ok({ do: "instance.report", instance, run, standings: scores(...players), payload: { seed: 7 } });
    expect(test.room(room).result?.payload).toEqual({ seed: 7 });
    expect(test.views.get(players[0])?.room?.result).not.toHaveProperty("payload");
    expect(test.watched.rooms[room]?.result).not.toHaveProperty("payload");
  });

  it("is taken once, and answered again when it is said again word for word", () => {
    const { test, players, instance, run } = playing();
    const report = (payload: unknown) =>
      test.run({ do: "instance.report", instance, run, standings: scores(...players), payload }).refused?.code;
    expect([report([1]), report([1]), report([2])]).toEqual([undefined, undefined, "result-known"]);
  });

  it("is refused with a side that the room does not have, and with strangers", () => {
    const { test, players, instance, run } = playing();
    const report = (more: object) =>
      test.refusal({ do: "instance.report", instance, run, standings: scores(...players), ...more });
    expect(report({ sides: { east: 3 } })).toMatchObject({
      code: "side-unknown",
      detail: "The result scores side east; the room has north, south.",
    });
    expect(report({ standings: scores("p_none") }).detail).toBe(
      "The standings name a player who is not of this match.",
    );
    expect(report({ standings: scores(players[0], players[0]) }).code).toBe("request-invalid");
    const other = playing(rulesWith("members"), "crews");
    const { test: without, players: two, instance: one, run: theirs } = other;
    const sides = { north: 1 };
    expect(
      without.refusal({ do: "instance.report", instance: one, run: theirs, standings: scores(...two), sides }).detail,
    ).toBe("The result scores side north; the room has none.");
  });
});

describe("an instance", () => {
  it("kicks a player out of its match, and so out of the room, for a reason that the player is told", () => {
    const { test, room, players, instance, run } = playing();
    const [ansel, brisa] = players;
    const kick = () =>
      test.run({ do: "instance.kick", instance, player: brisa, reason: "flew through walls", ban: true }).refused?.code;
    expect(kick()).toBeUndefined();
    expect(test.room(room).members.has(brisa)).toBe(false);
    expect(told(test, brisa).at(-1)).toMatchObject({
      kind: "out-of-room",
      cause: "kicked",
      by: "instance",
      why: "flew through walls",
    });
    expect(test.refusal({ do: "room.join", player: brisa, args: { room } }).code).toBe("banned-from-room");
    // It has let go of the player itself, and is told nothing of it.
    expect(test.instance(instance).instructions.map(({ instruction }) => instruction)).not.toContain("release-player");
    test.ok({ do: "instance.report", instance, run, standings: scores(ansel, brisa) });
    expect(test.room(room).result?.standings[1]).toMatchObject({ player: brisa, verdict: "kicked" });
    expect(kick()).toBe("berth-unknown");
  });

  it("lets somebody back in whom it has kicked without a ban", () => {
    const { test, room, players, instance } = playing(rulesWith("members"), "open-house");
    test.ok({ do: "instance.kick", instance, player: players[1], reason: undefined, ban: false });
    expect(test.run({ do: "room.join", player: players[1], args: { room } }).refused).toBeUndefined();
  });

  it("is told who is host by now, which settings hold, and who is on another side", () => {
    const { test, room, players, instance, run } = playing();
    acknowledge(test, room);
    const given = () => test.instance(instance).instructions;
    test.ok({ do: "room.hand-over", player: players[0], args: { to: players[1] } });
    expect(given().at(-1)).toEqual({
      number: expect.any(Number),
      instruction: "match-changed",
      run,
      host: players[1],
    });
    test.ok({ do: "room.operator-change", room, change: { settings: { tide: 3 } } });
    expect(given().at(-1)).toMatchObject({ instruction: "match-changed", settings: { tide: 3 } });
    const many = given().length;
    test.ok({ do: "room.operator-change", room, change: { name: "Slack water" } });
    expect(given()).toHaveLength(many);
  });
});
